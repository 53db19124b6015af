/** The address, as parts: /trays/3 is ['trays', '3']. */
class Router {
  path = $state(location.pathname);
  parts = $derived(this.path.split('/').filter(Boolean));

  constructor() {
    addEventListener('popstate', () => (this.path = location.pathname));
  }

  go(path: string, replace = false): void {
    if (path === location.pathname) return;
    history[replace ? 'replaceState' : 'pushState'](null, '', path);
    this.path = path.split('?')[0] ?? path;
  }
}

export const router = new Router();

/** Follow links inside the product without loading the page anew. */
export function follow(event: MouseEvent): void {
  const link = (event.target as Element | null)?.closest('a');
  const href = link?.getAttribute('href');
  if (!link || !href?.startsWith('/') || link.target || link.hasAttribute('download')) return;
  if (event.metaKey || event.ctrlKey || event.shiftKey || event.button !== 0) return;
  if (href.startsWith('/api/') || href.startsWith('/sign-')) return;
  event.preventDefault();
  router.go(href);
}
