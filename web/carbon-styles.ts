import postcss, { type Root, type Rule } from 'postcss';
import type { Plugin } from 'vite';

const CLASS = /bx--[\w-]+/g;
const VARIABLE = /var\((--cds-[\w-]+)/g;
/** What is in the library's sheet for parts and variants that are never shown here, and would stay since a class names them. */
const NEVER = new RegExp(
  [
    'flatpickr|numInput|bx--(?:data-table|table-|number__control|number__rule|loading|inline-loading|inline-notification|form-group)|\\[theme=[\'"]?(?:white|g80|g90|g100)|bx--(?:tooltip|skeleton|assistive|btn--(?:icon-only|ghost|set|expressive|danger-?-?(?:ghost|tertiary)))',
    'bx--popover--(?:caret|top|left|right|bottom(?!-right)|bottom-left|high|auto)',
    'bx--[\\w-]*(?:--fluid|--light|--xl\\b|--expand|--inline\\b|warning|--info-square|--success|--selection|--selected|--flush|--condensed|readonly|--low-contrast|--group--label|label-left|label-right|with-mark|three-button|--sortable|--skeleton)',
    'bx--(?:slider|select|search|number|toggle|text-input|text-area|file|btn|radio-button)[\\w-]*disabled',
  ].join('|'),
);

/** Carbon's style sheet without fonts from elsewhere, and without what is not used: components, themes, variables. */
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
          const kept = rule.selectors.filter((selector) => !NEVER.test(selector) && (selector.match(CLASS) ?? []).every(used));
          if (kept.length === 0) rule.remove();
          else if (kept.length < rule.selectors.length) rule.selectors = kept;
        });
        // The page names its theme; the library's default one would stand beside it.
        root.walkRules(':root', (rule) => void (rule.nodes.every((each) => each.type === 'decl' && each.prop.startsWith('--cds-')) && rule.remove()));
        dropUnusedVariables(root);
        dropUnusedKeyframes(root);
        root.walkAtRules((rule) => {
          if (rule.nodes?.length === 0 || rule.name === '-moz-document') rule.remove();
        });
        asset.source = root.toString();
      }
    },
  };
}

function dropUnusedKeyframes(root: Root): void {
  const asked: string[] = [];
  root.walkDecls(/animation/, (declaration) => void asked.push(declaration.value));
  root.walkAtRules(/keyframes$/, (rule) => {
    if (!asked.some((each) => each.includes(rule.params))) rule.remove();
  });
}

/** Variables that nothing asks for, those that only such ones ask for included. */
function dropUnusedVariables(root: Root): void {
  for (let before = -1, left = 0; before !== left; ) {
    before = left;
    const asked = new Set([...root.toString().matchAll(VARIABLE)].map(([, name]) => name));
    left = 0;
    root.walkDecls(/^--cds-/, (declaration) => {
      if (asked.has(declaration.prop)) left += 1;
      else declaration.remove();
    });
  }
}
