/** A mailbox read over IMAP at Debian's dovecot: what came before is left, what comes is taken once, whatever goes wrong between. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { systemClock } from '../src/clock/clock';
import type { MailboxChange } from '../src/connectors/connector';
import { type ImapAccount, openMailbox, tryMailbox } from '../src/connectors/mail/imap';
import { networkOf } from '../src/connectors/outside/network';
import { checkAccount, replaceCredentials } from '../src/operations/accounts/accounts';
import { SYSTEM } from '../src/operations/context/actor';
import { inboundUrl } from '../src/operations/context/channelAddresses';
import { getTrail } from '../src/operations/log/trail';
import { getMailbox } from '../src/operations/mailboxes/mailboxView';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMailServer, credentialsFor, type MailServer, PASSWORD, startMailServer } from './harness/dovecot';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const DESK = 'desk@mossgate.example';
const LINNEA = 'linnea.brook@heron.example';

let house: Installation;
let server: MailServer;
let channel: ChannelRow;
let accountId: string;

const credentials = () => credentialsFor(server, DESK);

const mail = (id: string, words: string, head = '') =>
  `From: Linnea Brook <${LINNEA}>\nTo: ${DESK}\nSubject: Lock passage\nMessage-ID: <${id}@heron.example>\n${head}\n${words}\n`;
const arrived = (text: string) =>
  until(`“${text}” is in`, () => house.ctx.store.messages.one({ text, direction: 'in' }));
/** The same, of what is tried again only after a while. */
const again = (text: string) =>
  until(`“${text}” is in`, async () => {
    await house.bench.moveClock(5000);
    return (await times(text)) > 0;
  });
/** What is proven of the channel, by hop. */
async function marks() {
  const rows = await house.ctx.store.proofs.all({ subject_id: channel.id });
  return Object.fromEntries(rows.map(({ hop, state }) => [hop, state]));
}
const times = (text: string) => house.ctx.store.messages.count({ text, direction: 'in' });
const stands = (state: string) =>
  until(`it is ${state}`, async () => (await getMailbox(house.ctx, SYSTEM, accountId))?.state === state);

beforeAll(async () => {
  server = await startMailServer([DESK, LINNEA]);
  house = await startInstallation();
  server.deliver(DESK, mail('before', 'From before anybody read it here.'));
  channel = await connectMailServer(house, server, DESK);
  accountId = channel.account_id;
  await stands('open');
}, 180_000);
afterAll(async () => {
  await house.stop();
  await server.end();
});

test('what comes is in a conversation, is answered in its thread, and stays unread where it is', async () => {
  const { ctx } = house;
  server.deliver(DESK, mail('one', 'Can I pass on Sunday?'));
  const asked = await arrived('Can I pass on Sunday?');
  expect(asked).toMatchObject({ sender: LINNEA, subject: 'Lock passage', channel_id: channel.id });
  const { message } = await createSender(ctx)(SYSTEM, { text: 'Yes, at nine.', inReplyTo: asked.id });
  await until('it left', () => ctx.store.messages.one({ id: message.id, state: 'sent' }));
  const [answer] = server.mailbox(LINNEA);
  expect(answer?.source).toMatch(/^In-Reply-To: <one@heron\.example>/m);
  expect(answer?.source).toMatch(/^Subject: Re: Lock passage/m);

  expect(server.mailbox(DESK).map(({ seen }) => seen)).toEqual([false, false]);
  expect(await times('From before anybody read it here.')).toBe(0);
  const { legs } = await getTrail(ctx, SYSTEM, asked.id);
  expect(legs[0]?.hops.find(({ place }) => place === 'Mailbox')).toMatchObject({ state: 'proven' });
  // That a server took it shows nothing of where it went; that somebody answers it does.
  expect(await marks()).toMatchObject({ outbound: 'unproven', receipt: 'not-applicable' });
  const ours = /^Message-ID: (<.+>)\r$/m.exec(answer?.source ?? '')?.[1];
  server.deliver(DESK, mail('two', 'Good, see you then.', `In-Reply-To: ${ours}\n`));
  expect(await arrived('Good, see you then.')).toMatchObject({ in_reply_to: message.id });
  expect(await marks()).toMatchObject({
    credential: 'proven',
    outbound: 'proven',
    receipt: 'not-applicable',
    inbound: 'proven',
  });
});

test('files come along; one that is too long is named and left where it is', async () => {
  const parted = (size: number) =>
    mail(
      `file${size}`,
      [
        '--part',
        'Content-Type: text/plain',
        '',
        `With ${size} octets.`,
        '--part',
        'Content-Type: image/png; name="plan.png"',
        'Content-Disposition: attachment; filename="plan.png"',
        'Content-Transfer-Encoding: base64',
        '',
        ...Array.from({ length: Math.ceil(size / 57) }, () => Buffer.alloc(57, 'p').toString('base64')),
        '--part--',
      ].join('\n'),
      'MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary="part"\n',
    );
  server.deliver(DESK, parted(5700));
  const small = await arrived('With 5700 octets.');
  expect(small.files).toMatchObject([{ name: 'plan.png', bytes: 5700 }]);
  server.deliver(DESK, parted(9_000_000));
  const long = await until('the long one is named', async () =>
    (await house.ctx.store.messages.all({ direction: 'in' })).find(({ text }) => /^\[A mail of 12 MB/.test(text)),
  );
  expect(long).toMatchObject({ sender: LINNEA, subject: 'Lock passage', files: null });
});

test('nothing is left out and nothing taken twice over kills, restarts, and a server that counts anew', async () => {
  for (let kill = 0; kill < 2; kill++) {
    for (let each = 0; each < 8; each++)
      server.deliver(DESK, mail(`kill${kill}-${each}`, `Kill ${kill}, mail ${each}`));
    house.engine?.kill('SIGKILL');
    server.deliver(DESK, mail(`dead${kill}`, `Came while dead ${kill}`));
    await house.startEngine();
    await arrived(`Came while dead ${kill}`);
  }
  await server.stop();
  await stands('waiting');
  // That a server is away says nothing of what was proven: it waits there.
  expect(await marks()).toMatchObject({ credential: 'proven', inbound: 'proven' });
  server.deliver(DESK, mail('down', 'Came while the server was down'));
  await server.start();
  await again('Came while the server was down');

  await server.stop();
  server.countAnew(DESK);
  server.deliver(DESK, mail('anew', 'Came while it counted anew'));
  await server.start();
  await again('Came while it counted anew');
  server.deliver(DESK, mail('last', 'The last one'));
  await arrived('The last one');

  const texts = (await house.ctx.store.messages.all({ direction: 'in' })).map(({ text }) => text);
  expect(new Set(texts).size).toBe(texts.length);
  for (let kill = 0; kill < 2; kill++)
    for (let each = 0; each < 8; each++) expect(texts).toContain(`Kill ${kill}, mail ${each}`);
  // Of the day on which it was counted anew everything is looked at again, and known by its Message-ID, but for what was never taken.
  expect(texts.filter((text) => text === 'From before anybody read it here.').length).toBeLessThanOrEqual(1);
});

test('nobody can post what is only read; a wrong password is refused, named and mended', async () => {
  const posted = await fetch(inboundUrl(house.ctx, channel), {
    method: 'POST',
    headers: { 'content-type': 'message/rfc822', 'windgap-mailbox': DESK },
    body: mail('forged', 'Forged'),
  });
  expect(posted.status).toBe(401);
  expect(await times('Forged')).toBe(0);

  await expect(
    replaceCredentials(house.ctx, SYSTEM, accountId, { ...credentials(), password: 'wrong password' }),
  ).rejects.toMatchObject({ findings: [{ finding: { code: 'credential-refused' } }] });
  const missing = replaceCredentials(house.ctx, SYSTEM, accountId, { ...credentials(), folder: 'Nowhere' });
  await expect(missing).rejects.toMatchObject({ message: expect.any(String) });
  expect(await checkAccount(house.ctx, SYSTEM, accountId)).toMatchObject({ state: 'accepted' });
});

test('what cannot be stored here is not held against the server, and is taken when it can be', async () => {
  const changes: MailboxChange[] = [];
  const taken: string[] = [];
  let refuses = true;
  const quick = { ...systemClock, after: (ms: number, work: () => void) => systemClock.after(Math.min(ms, 50), work) };
  const link = openMailbox(
    { host: '127.0.0.1', port: server.imapPort, user: LINNEA, pass: PASSWORD, folder: 'INBOX' },
    undefined,
    {
      changed: (change) => changes.push(change),
      began: async () => server.deliver(LINNEA, mail('here', 'Is it stored?')),
      async arrived({ source }) {
        if (refuses) throw new Error('the disk is full');
        taken.push(source.toString());
      },
    },
    { network: networkOf({ allowPrivate: true }), clock: quick },
  );
  await until('it could not be stored', () => changes.some(({ said }) => said?.includes('the disk is full')));
  expect(changes.flatMap(({ cause }) => cause ?? [])).toEqual([]);
  refuses = false;
  await until('it is taken', () => taken.length > 0);
  await link.close();
  expect(taken).toEqual([expect.stringContaining('Is it stored?')]);
});

test('a mailbox that is not there is asked for again only after a pause', async () => {
  const account = { host: '127.0.0.1', port: server.imapPort, user: LINNEA, pass: PASSWORD };
  const doors = { network: networkOf({ allowPrivate: true }), clock: systemClock };
  const pauses: number[] = [];
  const states: string[] = [];
  const still = {
    ...systemClock,
    after(ms: number) {
      pauses.push(ms);
      return { cancel: () => undefined, unref: () => undefined };
    },
  } as unknown as typeof systemClock;
  const link = openMailbox(
    { ...account, folder: 'Nowhere' },
    undefined,
    { changed: ({ state }) => states.push(state), began: async () => undefined, arrived: async () => undefined },
    { ...doors, clock: still },
  );
  await until('it is refused', () => states.includes('refused'));
  // As long as it takes to ask twice more.
  await tryMailbox({ ...account, folder: 'INBOX' }, doors);
  await tryMailbox({ ...account, folder: 'INBOX' }, doors);
  expect(states).toEqual(['opening', 'refused']);
  expect(pauses).toEqual([300_000]);
  await link.close();
});

test('where encryption is required and not offered nothing is said; private addresses are not connected to where they are not allowed', async () => {
  const account = { host: '127.0.0.1', port: server.imapPort, user: DESK, pass: PASSWORD, folder: 'INBOX' };
  const look = (more: Partial<ImapAccount>, allowPrivate = true) =>
    tryMailbox({ ...account, ...more }, { network: networkOf({ allowPrivate }), clock: systemClock });
  expect(await look({ security: 'none' })).toMatchObject({ ok: true });
  for (const security of ['starttls', 'tls'] as const)
    expect(await look({ security })).toMatchObject({ ok: false, failure: { cause: 'encryption-refused' } });
  expect(await look({}, false)).toMatchObject({ ok: false, failure: { cause: 'address-not-allowed' } });
  const wrong = await look({ pass: 'wrong password' });
  expect(wrong).toMatchObject({ ok: false, failure: { cause: 'credential-refused' } });
  expect(JSON.stringify(wrong)).not.toContain('wrong password');
  expect(await look({ folder: 'Nowhere' })).toMatchObject({ ok: false, failure: { cause: 'request-refused' } });
  expect(await look({ port: 1 })).toMatchObject({ ok: false, failure: { cause: 'provider-unreachable' } });
});
