const worn = new WeakMap<Document | ShadowRoot, Set<string>>();

/**
 * Gives the document or shadow root of an element a style, once, in a way that needs no inline styles to be allowed.
 *
 * @param host an element of the page
 * @param css the style
 */
export function adoptStyles(host: Element, css: string): void {
  const root = host.getRootNode() as Document | ShadowRoot;
  const styles = worn.get(root) ?? new Set();
  if (styles.has(css) || !('adoptedStyleSheets' in root)) return;
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(css);
  root.adoptedStyleSheets = [...root.adoptedStyleSheets, sheet];
  worn.set(root, styles.add(css));
}
