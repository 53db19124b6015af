import postcss, { type Rule } from 'postcss';
import type { Plugin } from 'vite';

const CLASS = /bx--[\w-]+/g;

/** Carbon's style sheet without fonts from elsewhere and without the components that are not used. */
export function carbonStyles(): Plugin {
  return {
    name: 'carbon-styles',
    enforce: 'pre',
    transform(code, id) {
      if (!id.includes('carbon-components-svelte/css/')) return null;
      const root = postcss.parse(code);
      root.walkAtRules('font-face', (rule) => void rule.remove());
      return { code: root.toString(), map: null };
    },
    generateBundle(_, bundle) {
      const named = new Set<string>();
      for (const chunk of Object.values(bundle)) {
        if (chunk.type === 'chunk') for (const [name] of chunk.code.matchAll(CLASS)) named.add(name);
      }
      // Names that are put together at run time appear as their beginning.
      const beginnings = [...named].filter((name) => name.endsWith('-'));
      const used = (name: string) => named.has(name) || beginnings.some((start) => name.startsWith(start));
      for (const asset of Object.values(bundle)) {
        if (asset.type !== 'asset' || !asset.fileName.endsWith('.css')) continue;
        const root = postcss.parse(asset.source.toString());
        root.walkRules((rule: Rule) => {
          const kept = rule.selectors.filter((selector) => (selector.match(CLASS) ?? []).every(used));
          if (kept.length === 0) rule.remove();
          else if (kept.length < rule.selectors.length) rule.selectors = kept;
        });
        asset.source = root.toString();
      }
    },
  };
}
