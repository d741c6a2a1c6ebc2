/**
 * What the browser's tab and a screen reader call the page (WCAG 2.4.2). It is drawn with the page, not as route
 * metadata: that arrives after the page it names, and the document has no title until it does.
 */
export function DocumentTitle({ of }: { of?: string }) {
  return <title>{of ? `${of} · Windgap` : 'Windgap'}</title>;
}
