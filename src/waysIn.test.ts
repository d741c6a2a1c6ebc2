/** What grows by one more of its kind is described in one place: whoever adds one need not look for the others. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { CHANNEL_KINDS } from './core/connect/channelKinds';
import { IDENTITY_KINDS } from './core/identities/identityKinds';
import { conditionKinds } from './core/routing/conditions';

const ROOT = import.meta.dirname;
const files = readdirSync(ROOT, { recursive: true, encoding: 'utf8' })
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.|migrations/.test(file))
  .map((file) => ({ file, text: readFileSync(join(ROOT, file), 'utf8') }));
const naming = (pattern: RegExp) =>
  files
    .filter(({ text }) => pattern.test(text))
    .map(({ file }) => file)
    .sort();

test('a kind of channel is named by its description, its connector and the panel it alone has', () => {
  const kinds = new RegExp(`'(${CHANNEL_KINDS.join('|')})'`);
  expect(naming(kinds).filter((file) => !file.startsWith('connectors/'))).toEqual([
    'app/(in)/compose/contacts/[id]/page.tsx',
    'app/(in)/connect/channels/[id]/page.tsx',
    'core/connect/channelKinds.ts',

    'operations/channels/webChat.ts',
    'operations/diagnosis/drills.ts',
    'operations/profiles/connectorProfiles.ts',
    'operations/threads/findOrCreateConversation.ts',
    'store/schema/contactRows.ts',
  ]);
});

test('nothing chooses among the kinds of channels or of conditions but their registers', () => {
  const choosing = files.filter(({ text }) => {
    const cases = new Set([...text.matchAll(/case '([\w-]+)':/g)].map(([, name]) => name));
    const conditions = conditionKinds.filter(({ on }) => cases.has(on)).length;
    return conditions > 3 || CHANNEL_KINDS.filter((kind) => cases.has(kind)).length > 2;
  });
  expect(choosing.map(({ file }) => file)).toEqual([]);
});

test('pages and components know no column of the store', () => {
  const columns = /(\.|\?\.|[{,] )[a-z]+(_[a-z]+)+\b(?=[\s,.)}!?;:]|$)/m;
  expect(naming(columns).filter((file) => /^(app|ui)\/.*\.tsx$/.test(file))).toEqual([]);
});

test('a kind of identity is named by its description, by who makes one, and where a visitor of a web chat is meant', () => {
  const kinds = IDENTITY_KINDS.join('|');
  const told = new RegExp(
    `kind ={2,3} '(${kinds})'|kind !== '(${kinds})'|kind: '(${kinds})'|identity: '(${kinds})'|'vis_`,
  );
  // A provider proves by a code that a phone, or a number, is somebody’s: no identity is meant there.
  const codes = [
    'app/(in)/connect/providers/actions.ts',
    'connectors/connector.ts',
    'connectors/http/profileConnector.ts',
  ];
  expect(naming(told).filter((file) => !codes.includes(file))).toEqual([
    'core/connect/channelKinds.ts',
    'operations/accounts/providerChanges.ts',
    'operations/conversations/replyOptions.ts',
    'operations/identities/identities.ts',
    'operations/threads/findOrCreateConversation.ts',
  ]);
});
