/** The address, as parts: /trays/3?state=eye is ['trays', '3'] with a query. */
class Router {
  path = $state(location.pathname);
  query = $state(location.search);
  parts = $derived(this.path.split('/').filter(Boolean));

  constructor() {
    addEventListener('popstate', () => this.read());
  }

  go(to: string, replace = false): void {
    const [path = '', query = ''] = to.split('?');
    if (path === location.pathname && query === location.search.slice(1)) return;
    history[replace ? 'replaceState' : 'pushState'](null, '', to);
    this.read();
  }

  private read(): void {
    this.path = location.pathname;
    this.query = location.search;
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
