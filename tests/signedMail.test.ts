/** Signed mail and the link by which people leave it; mailauth, a verifier of its own, is the witness. */
import { Resolver } from 'node:dns/promises';
import { dkimVerify } from 'mailauth/lib/dkim/verify';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { mergeContacts } from '../src/operations/contacts/contactMerge';
import { addContact } from '../src/operations/contacts/contactPages';
import { moveIdentity } from '../src/operations/contacts/identityMoves';
import type { Actor } from '../src/operations/context/actor';
import { SYSTEM } from '../src/operations/context/actor';
import { lookForRecord, makeMailKey, viewMailKey } from '../src/operations/mailSigning/manageMailKeys';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMailServer, type MailServer, startMailServer } from './harness/dovecot';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const DESK = 'desk@mossgate.example';
const LINNEA = 'linnea.brook@heron.example';
const WREN = 'wren.hollis@reed.example';
const OTHER = 'w.hollis@sedge.example';
const LOCKBOOK: Actor = { kind: 'app', id: 'app_1', name: 'Lockbook', keyId: '', scopes: ['messages:send'] };
const PRIYA: Actor = { kind: 'user', id: 'usr_priya', name: 'Priya', role: 'agent' };

let house: Installation;
let server: MailServer;
let channel: ChannelRow;
let accountId: string;
let send: Sender;

beforeAll(async () => {
  server = await startMailServer([DESK, LINNEA, WREN, OTHER]);
  house = await startInstallation();
  const { ctx } = house;
  channel = await connectMailServer(house, server, DESK);
  accountId = channel.account_id;
  send = createSender(ctx);
}, 180_000);
afterAll(async () => {
  await house.stop();
  await server.end();
});

const resolver = new Resolver();
/** What a receiver of the mail makes of its signature, asking the same records. */
async function judged(source: string) {
  resolver.setServers(house.env.WINDGAP_NAME_SERVERS?.split(',') ?? []);
  const { results } = await dkimVerify(Buffer.from(source, 'latin1'), {
    resolver: (name) => resolver.resolveTxt(name),
  });
  return results as { status: { result: string }; signingDomain: string; signingHeaders?: { keys: string } }[];
}
const publish = (name: string, texts: string[]) => house.bench.post('/fennick/records', { name, texts });

/** Sends and returns the mail as the receiver's server has it. */
async function mailed(actor: Actor, to: string, text: string): Promise<string> {
  const { message } = await send(actor, { to, from: channel.id, text, subject: 'Lock times' });
  await until('it left', () => house.ctx.store.messages.one({ id: message.id, state: 'sent' }));
  return server.mailbox(to).find(({ source }) => source.includes(message.id))?.source ?? '';
}
const header = (source: string, name: string) =>
  new RegExp(`^${name}: ?((?:.|\\r?\\n[ \\t])*)`, 'im')
    .exec(source)?.[1]
    ?.replace(/\r?\n\s+/g, ' ')
    .trim();

test('signed only while the record stands, and then by the words of a verifier that is not ours', async () => {
  const { ctx } = house;
  expect(header(await mailed(LOCKBOOK, LINNEA, 'Before there is a key'), 'DKIM-Signature')).toBeUndefined();
  await makeMailKey(ctx, SYSTEM, accountId);
  const record = (await viewMailKey(ctx, SYSTEM, accountId))?.record;
  if (!record) throw new Error('there is no key');
  expect((await lookForRecord(ctx, SYSTEM, accountId)).state).toBe('missing');
  await publish(record.name, [record.value.slice(0, 255)]);
  expect(await lookForRecord(ctx, SYSTEM, accountId)).toMatchObject({
    state: 'differs',
    said: 'the key there is cut off',
  });
  expect(header(await mailed(LOCKBOOK, LINNEA, 'Unsigned still'), 'DKIM-Signature')).toBeUndefined();

  await publish(record.name, [record.value]);
  expect((await lookForRecord(ctx, SYSTEM, accountId)).state).toBe('published');
  const source = await mailed(LOCKBOOK, LINNEA, 'Die Schleuse öffnet um neun.\n.\nEnde.');
  const [result] = await judged(source);
  expect(result).toMatchObject({ status: { result: 'pass' }, signingDomain: 'mossgate.example' });
  for (const name of ['list-unsubscribe', 'list-unsubscribe-post', 'from', 'subject'])
    expect(header(source, 'DKIM-Signature')?.toLowerCase()).toContain(name);
  // The witness can fail: a word changed on the way is seen.
  expect((await judged(source.replace('Ende.', 'Wende.')))[0]?.status.result).not.toBe('pass');
});

test('whoever did not ask leaves with one press, as mail programs do it; a look changes nothing', async () => {
  const { ctx } = house;
  const source = await mailed(LOCKBOOK, WREN, 'The lock is closed on Sunday');
  expect(header(source, 'List-Unsubscribe-Post')).toBe('List-Unsubscribe=One-Click');
  const url = /^<(.+)>$/.exec(header(source, 'List-Unsubscribe') ?? '')?.[1] ?? '';
  // What a colleague writes to one person carries none.
  expect(header(await mailed(PRIYA, WREN, 'Dear Wren'), 'List-Unsubscribe')).toBeUndefined();

  const page = await (await fetch(url)).text();
  expect(page).toContain('<form method="post">');
  const press = (address: string, body = 'List-Unsubscribe=One-Click') =>
    fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
      body,
      redirect: 'error',
    });
  await press(url, 'something=else');
  await fetch(url, { method: 'HEAD' });
  await mailed(LOCKBOOK, WREN, 'Still allowed');

  // Somebody else's, a changed one, and none.
  const [, what = '', mark = ''] = /^(.*)\.([^.]+)$/.exec(url) ?? [];
  for (const wrong of [`${what}x.${mark}`, `${what}.${mark.slice(1)}`, `${what}.`, what, `${what}.${'A'.repeat(24)}`])
    expect((await press(wrong)).status, wrong).toBe(404);
  await mailed(LOCKBOOK, WREN, 'Allowed all the same');

  expect((await press(url)).status).toBe(200);
  expect((await press(url)).status).toBe(200);
  await expect(
    send(LOCKBOOK, { to: WREN, from: channel.id, text: 'Not any more', subject: 'x' }),
  ).rejects.toMatchObject({
    findings: [{ finding: { code: 'opted-out' } }],
  });
  const contact = await ctx.store.identities.one({ value: WREN });
  const entries = await ctx.store.consentEntries.all({ contact_id: contact?.contact_id ?? '', how: 'link' });
  expect(entries).toMatchObject([{ way: 'mail', what: 'withdrawn' }]);
  expect(await (await fetch(url)).text()).not.toContain('<form');
});

test('whoever has the address by now leaves, and not who had it when the mail was sent', async () => {
  const { ctx } = house;
  const source = await mailed(LOCKBOOK, OTHER, 'To whoever reads this');
  const url = /^<(.+)>$/.exec(header(source, 'List-Unsubscribe') ?? '')?.[1] ?? '';
  const identity = { kind: 'mail', scope: '', value: OTHER } as const;
  const before = (await ctx.store.identities.one(identity))?.contact_id ?? '';
  const { id: toId } = await addContact(ctx, SYSTEM, { name: 'Rowan', address: 'rowan@sedge.example' });
  const { contactId } = await moveIdentity(ctx, SYSTEM, { identity, how: 'given', toId, why: 'It is his now.' });
  await fetch(url, { method: 'POST', body: new URLSearchParams({ 'List-Unsubscribe': 'One-Click' }) });
  const stands = (contact_id: string) => ctx.store.contactConsents.one({ contact_id, way: 'mail' });
  expect(await stands(contactId)).toMatchObject({ state: 'withdrawn' });
  expect(await stands(before)).toBeUndefined();
  await enterConsent(ctx, SYSTEM, { contactId, way: 'mail', what: 'given', wording: 'Again, by telephone.' });
});

test('a link holds after the mail is forgotten and its contact was merged into another', async () => {
  const { ctx } = house;
  const source = await mailed(LOCKBOOK, LINNEA, 'Long ago');
  const url = /^<(.+)>$/.exec(header(source, 'List-Unsubscribe') ?? '')?.[1] ?? '';
  const linnea = await ctx.store.identities.one({ value: LINNEA });
  const other = await send(SYSTEM, { to: OTHER, from: channel.id, text: 'x', subject: 'x' });
  await mergeContacts(ctx, SYSTEM, {
    keptId: other.message.contactId,
    goneId: linnea?.contact_id ?? '',
    why: 'one person',
  });
  const forgotten = (await ctx.store.messages.all({ contact_id: other.message.contactId })).map(({ id }) => id);
  await until('nothing of them waits', async () => (await ctx.store.outbox.count({ message_id: forgotten })) === 0);
  await ctx.store.write(async (unit) => {
    await unit.events.removeBy('message_id', forgotten);
    await unit.messages.removeBy('id', forgotten);
  });
  const pressed = await fetch(url, { method: 'POST', body: new URLSearchParams({ 'List-Unsubscribe': 'One-Click' }) });
  expect(pressed.status).toBe(200);
  expect(await ctx.store.contactConsents.one({ contact_id: other.message.contactId, way: 'mail' })).toMatchObject({
    state: 'withdrawn',
  });
});
