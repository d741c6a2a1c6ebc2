/** What people read is in the words of the trade: none of the words that were replaced is left in any text of the product. */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';
import { expect, test } from 'vitest';

const ROOT = join(import.meta.dirname, '..');

const REPLACED: [old: RegExp, plain: string][] = [
  [/\bmend(s|ed)?\b/i, 'fix'],
  [/\bput away\b/i, 'archived'],
  [/^give back$|\bgiven back\b/i, 'release'],
  [/^a month$/i, 'Monthly price'],
  [/^standing$/i, 'Status'],
  [/\bsaid nothing\b|\bnot said\b/i, 'no consent recorded, not set'],
  [/\b(agreed to|declined) (texts|business chat|web chat)\b/i, 'opted in to, opted out of'],
  [/one person twice/i, 'Duplicates'],
  [/\bto see to\b/i, 'needs attention'],
  [/^nobody’s$/i, 'Unassigned'],
  [/^sent by itself$/i, 'Automated'],
  [/closes by itself/i, 'Auto-close'],
  [/tell me of/i, 'Turn on desktop notifications'],
  [/^writes first$/i, 'Can start conversations'],
  [/guards publishing/i, 'required before publishing'],
  [/^keep this test$/i, 'Add this test'],
  [/set in motion/i, 'started by'],
  [/beside the last that worked/i, 'Compare with the last success'],
  [/^again from here$/i, 'Replay from this step'],
  [/^as it came$/i, 'Raw request'],
  [/^everything well$|^a (first|usual|hard) one$/i, 'All clear, Easy, Medium, Hard'],
  [/is not asked to post/i, 'not subscribed to the events'],
  [/\bshouts\b/i, 'too many capitals or exclamation marks'],
  [/^house$|\bunder House\b|^the pass$|^flow$/i, 'Settings, Paths, Traffic'],
  [/\b(boat(er)?s?|skippers?|lock keepers?|lockbook|towpath|narrowboats?)\b/i, 'no trade’s own words'],
];

/** Names of the stand-ins stand on the bench, which has switches for each; migrations and versions of the API name what there was. */
const SPARED = /faultWords\.ts$|migrations\/|core\/api\/versions\.ts$/;

/** Texts as people could read them: string literals, templates without their holes, and text between tags. */
function textsOf(file: string): string[] {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true);
  const texts: string[] = [];
  const visit = (node: ts.Node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isJsxText(node)) texts.push(node.text.replace(/\s+/g, ' ').trim());
    else if (ts.isStringLiteralLike(node) || ts.isTemplateHead(node) || ts.isTemplateMiddleOrTemplateTail(node)) {
      // One word in small letters is a key or a state, not a text.
      if (/[A-Z ]/.test(node.text)) texts.push(node.text.trim());
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return texts;
}

test('no text of the product has a word that was replaced', () => {
  const files = readdirSync(join(ROOT, 'src'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.tsx?$/.test(entry.name) && !/\.test\.tsx?$/.test(entry.name))
    .map((entry) => join(entry.parentPath, entry.name))
    .filter((file) => !SPARED.test(file));
  const left = files.flatMap((file) =>
    textsOf(file).flatMap((text) =>
      REPLACED.filter(([old]) => old.test(text)).map(
        ([, plain]) => `${relative(ROOT, file)}: “${text.slice(0, 90)}” (${plain})`,
      ),
    ),
  );
  expect(files.length).toBeGreaterThan(300);
  expect(left).toEqual([]);
});
