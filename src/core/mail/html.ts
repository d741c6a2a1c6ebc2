/** Plain words as simple HTML: paragraphs, line breaks and links that can be followed, and nothing else. */

const LINK = /\bhttps?:\/\/[^\s<>"']+[^\s<>"'.,;:!?)\]]/g;

/** `words` in HTML that shows the same; whatever is written in them stays text. */
export function htmlOf(words: string): string {
  const paragraphs = words
    .trim()
    .split(/\n[ \t]*\n+/)
    .map((paragraph) => `<p>${paragraph.split('\n').map(withLinks).join('<br>\n')}</p>`);
  return `<!doctype html>\n<html><body style="font:16px/1.5 sans-serif">\n${paragraphs.join('\n')}\n</body></html>\n`;
}

function withLinks(line: string): string {
  let html = '';
  let from = 0;
  for (const { 0: link, index } of line.matchAll(LINK)) {
    html += `${escaped(line.slice(from, index))}<a href="${escaped(link)}">${escaped(link)}</a>`;
    from = index + link.length;
  }
  return html + escaped(line.slice(from));
}

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
