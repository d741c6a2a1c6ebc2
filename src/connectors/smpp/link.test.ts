/** The held link against a carrier that does exactly what each test says. */

import type { AddressInfo } from 'node:net';
import selfsigned from 'selfsigned';
import smpp, { type PDU, type Session } from 'smpp';
import { afterEach, describe, expect, test } from 'vitest';
import { systemClock } from '../../clock/clock';
import type { TrunkChange, TrunkLink } from '../connector';
import { networkOf } from '../outside/network';
import { type TrunkSettings, trunkSettings } from './dialect';
import { openLink } from './link';

type Server = ReturnType<typeof smpp.createServer>;
let server: Server | undefined;
let link: TrunkLink | undefined;
const sessions: Session[] = [];

afterEach(async () => {
  await link?.close();
  for (const session of sessions.splice(0)) session.destroy();
  await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
  link = undefined;
  server = undefined;
});

interface Carrier {
  port: number;
  /** Commands in the order in which they came. */
  heard: string[];
  submits: PDU[];
  sessions: Session[];
}

/** Binds whoever comes; `onSubmit` answers submits, or does not. */
async function carrier(
  onSubmit: (pdu: PDU, session: Session, nth: number) => void,
  bindStatus = 0,
  tls?: { key: string; cert: string },
): Promise<Carrier> {
  const seen: Carrier = { port: 0, heard: [], submits: [], sessions: [] };
  server = smpp.createServer(tls ?? {}, (session) => {
    seen.sessions.push(session);
    sessions.push(session);
    session.on('error', () => undefined);
    session.on('pdu', (pdu: PDU) => {
      seen.heard.push(pdu.command);
      if (pdu.command === 'submit_sm') onSubmit(pdu, session, seen.submits.push(pdu));
      else if (pdu.command.startsWith('bind')) session.send(pdu.response({ command_status: bindStatus }));
      else if (!pdu.isResponse()) session.send(pdu.response());
    });
  });
  await new Promise<void>((resolve) => server?.listen(0, '127.0.0.1', () => resolve()));
  seen.port = ((server as unknown as { address(): AddressInfo }).address() as AddressInfo).port;
  return seen;
}

const take = (pdu: PDU, session: Session, nth: number) => session.send(pdu.response({ message_id: `A${nth}` }));
const status = (pdu: PDU, session: Session, command_status: number) => session.send(pdu.response({ command_status }));

async function open(
  port: number,
  settings: Partial<TrunkSettings> = {},
  arrived: () => Promise<void> = async () => undefined,
  { host = '127.0.0.1', allowPrivate = true } = {},
) {
  const changes: TrunkChange[] = [];
  const late: string[] = [];
  link = openLink(
    { host, port, systemId: 'mossgate', password: 'p', systemType: '' },
    trunkSettings.parse({ pace: 1000, ...settings }),
    {
      changed: (change) => changes.push(change),
      arrived,
      answeredLate: (reference) => late.push(reference),
      pdu: () => undefined,
    },
    { network: networkOf({ allowPrivate }), clock: systemClock },
  );
  await until(() => changes.some(({ state }) => state !== 'binding'));
  return { link, changes, late };
}

async function until(holds: () => boolean) {
  const deadline = Date.now() + 120_000;
  while (!holds()) {
    if (Date.now() > deadline) throw new Error('Waited in vain');
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

let counter = 0;
const text = (words = 'Hello') => ({
  reference: `msg_${++counter}`,
  mark: counter * 16,
  sender: '+447700900890',
  recipient: '+447700900123',
  text: words,
  receiptUrl: '',
  numberId: '',
});
const THREE_PARTS = 'a'.repeat(400);

test('never more unanswered than the window, and everything goes through', async () => {
  let unanswered = 0;
  let most = 0;
  const { port } = await carrier((pdu, session, nth) => {
    most = Math.max(most, ++unanswered);
    setTimeout(() => {
      unanswered -= 1;
      take(pdu, session, nth);
    }, 3);
  });
  const { link } = await open(port, { window: 4 });
  const outcomes = await Promise.all(Array.from({ length: 40 }, () => link.submit(text())));
  expect(outcomes.every((outcome) => outcome.ok)).toBe(true);
  expect(most).toBe(4);
});

test('a text in parts is accepted with the carrier’s ids of all of them, in order', async () => {
  const { port, submits } = await carrier(take);
  const { link } = await open(port);
  expect(await link.submit(text(THREE_PARTS))).toMatchObject({
    ok: true,
    value: { providerMessageId: 'a1', parts: ['a1', 'a2', 'a3'] },
  });
  expect(submits.map((pdu) => pdu.esm_class)).toEqual([0x40, 0x40, 0x40]);
});

test('throttled: the text is to be tried again, and the whole link pauses', async () => {
  const times: number[] = [];
  const { port } = await carrier((pdu, session, nth) => {
    times.push(performance.now());
    if (nth === 1) status(pdu, session, 0x58);
    else take(pdu, session, nth);
  });
  const { link } = await open(port);
  const began = performance.now();
  expect(await link.submit(text())).toMatchObject({ ok: false, failure: { cause: 'throttled', retryAfter: 1000 } });
  expect(await link.submit(text())).toMatchObject({ ok: true });
  expect((times[1] as number) - began).toBeGreaterThanOrEqual(990);
});

test('throttled between two parts: the link itself writes the part again, so that no part goes twice', async () => {
  const { port, submits } = await carrier((pdu, session, nth) =>
    nth === 2 ? status(pdu, session, 0x58) : take(pdu, session, nth),
  );
  const { link } = await open(port);
  expect(await link.submit(text(THREE_PARTS))).toMatchObject({ ok: true });
  expect(submits).toHaveLength(4);
});

test('a part refused for good after others were taken: never tried again as a whole', async () => {
  const { port } = await carrier((pdu, session, nth) =>
    nth === 2 ? status(pdu, session, 11) : take(pdu, session, nth),
  );
  const { link } = await open(port);
  expect(await link.submit(text(THREE_PARTS))).toMatchObject({
    ok: false,
    failure: { cause: 'partly-taken', said: 'ESME_RINVDSTADR; 1 of 3 parts were taken' },
  });
});

test('cut with submits unanswered: those are of unknown outcome, and the link binds again', async () => {
  const { port, sessions, submits } = await carrier((_pdu, session, nth) => {
    if (nth === 2) session.destroy();
  });
  const { link, changes } = await open(port);
  const outcomes = await Promise.all([link.submit(text()), link.submit(text())]);
  for (const outcome of outcomes)
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'trunk-down', outcomeUnknown: true } });
  await until(() => changes.filter(({ state }) => state === 'bound').length === 2);
  expect(sessions).toHaveLength(2);
  expect(submits).toHaveLength(2);
});

test('no answer in time is an unknown outcome; one that comes later is still told', async () => {
  const { port } = await carrier((pdu, session, nth) => void setTimeout(() => take(pdu, session, nth), 700));
  const { link, late, changes } = await open(port, { answerSeconds: 0.3 });
  expect(await link.submit(text())).toMatchObject({
    ok: false,
    failure: { cause: 'provider-timeout', outcomeUnknown: true },
  });
  await until(() => late.length === 1);
  // The carrier answered the enquiry meanwhile, so the link was kept.
  expect(changes.filter(({ state }) => state === 'bound')).toHaveLength(1);
});

test('a refused bind says why, and is not asked again at once', async () => {
  const { port, heard } = await carrier(take, 14);
  const { changes } = await open(port);
  expect(changes.at(-1)).toMatchObject({ state: 'refused', cause: 'credential-secret-wrong' });
  expect((changes.at(-1)?.nextTryAt ?? 0) - Date.now()).toBeGreaterThan(15_000);
  expect(heard).toEqual(['bind_transceiver']);
});

test('transmitter and receiver are two binds, and a text is handed over only when both stand', async () => {
  const { port, heard } = await carrier(take);
  const { link } = await open(port, { bind: 'transmitter and receiver' });
  expect(link.bound).toBe(true);
  expect(heard.sort()).toEqual(['bind_receiver', 'bind_transmitter']);
});

test('an idle link enquires, and closing unbinds', async () => {
  const { port, heard } = await carrier(take);
  const { link } = await open(port, { keepAliveSeconds: 1 });
  await until(() => heard.includes('enquire_link'));
  await link.close();
  expect(heard.at(-1)).toBe('unbind');
  expect(link.room(0)).toBe(0);
});

test('submits that are not answered free their places; a link on which several in a row are not is bound anew, and tried with one', async () => {
  let deaf = true;
  const { port, heard, submits } = await carrier((pdu, session, nth) => {
    if (!deaf) take(pdu, session, nth);
  });
  const { link, changes } = await open(port, { window: 3, answerSeconds: 1 });
  const first = await Promise.all(Array.from({ length: 3 }, () => link.submit(text())));
  expect(first.map((outcome) => !outcome.ok && outcome.failure.outcomeUnknown)).toEqual([true, true, true]);
  await until(() => changes.some(({ cause }) => cause === 'trunk-half-dead'));
  expect(link.unanswered).toBe(0);
  await until(() => changes.filter(({ state }) => state === 'bound').length === 2);
  // On trial: one at a time, until the carrier takes one.
  expect(link.room(0)).toBe(1);
  const trial = link.submit(text());
  const waiting = link.submit(text());
  await until(() => submits.length === 4);
  expect(link.unanswered).toBe(1);
  deaf = false;
  expect(await trial).toMatchObject({ ok: false, failure: { outcomeUnknown: true } });
  expect(await waiting).toMatchObject({ ok: true });
  expect(link.room(0)).toBeGreaterThan(1);
  expect(heard.filter((command) => command === 'bind_transceiver')).toHaveLength(2);
});

test('one lost submit is no half-dead link, and its late answer still settles it', async () => {
  const kept: [PDU, Session][] = [];
  const { port } = await carrier((pdu, session, nth) => {
    if (nth === 1) kept.push([pdu, session]);
    else take(pdu, session, nth);
  });
  const { link, changes, late } = await open(port, { window: 2, answerSeconds: 1 });
  const lost = text();
  expect(await link.submit(lost)).toMatchObject({ ok: false, failure: { outcomeUnknown: true } });
  expect(await link.submit(text())).toMatchObject({ ok: true });
  for (const [pdu, session] of kept) take(pdu, session, 9);
  await until(() => late.length === 1);
  expect(late).toEqual([lost.reference]);
  expect(changes.some(({ cause }) => cause === 'trunk-half-dead')).toBe(false);
});

test('closing ends though the carrier answers nothing; what it was not answered is unknown', async () => {
  const { port } = await carrier(() => undefined);
  const { link } = await open(port, { window: 2, answerSeconds: 120 });
  const outcome = link.submit(text());
  await until(() => link.unanswered === 1);
  await link.close();
  expect(await outcome).toMatchObject({ ok: false, failure: { outcomeUnknown: true } });
});

test('closing lets a text of which parts are taken go out whole, and takes nothing new', async () => {
  let hold: (() => void) | undefined;
  const { port, submits, heard } = await carrier((pdu, session, nth) => {
    if (nth === 1) hold = () => take(pdu, session, nth);
    else take(pdu, session, nth);
  });
  // One part in half a second: between two parts nothing is unanswered.
  const { link } = await open(port, { pace: 2 });
  const begun = link.submit(text(THREE_PARTS));
  const notBegun = link.submit(text());
  await until(() => hold !== undefined);
  const closed = link.close();
  const late = link.submit(text());
  hold?.();
  for (const outcome of [await notBegun, await late])
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'trunk-down' } });
  expect(await begun).toMatchObject({ ok: true, value: { parts: ['a1', 'a2', 'a3'] } });
  await closed;
  expect(submits).toHaveLength(3);
  expect(heard.at(-1)).toBe('unbind');
});

test('closing answers what the carrier brought before it unbinds', async () => {
  const { port, heard, sessions } = await carrier(take);
  let stored: (() => void) | undefined;
  const { link } = await open(port, {}, () => new Promise((resolve) => (stored = resolve)));
  sessions[0]?.send(new smpp.PDU('deliver_sm', { source_addr: '447700900123', destination_addr: '447700900890' }));
  await until(() => stored !== undefined);
  const closed = link.close();
  stored?.();
  await closed;
  expect(heard.slice(-2)).toEqual(['deliver_sm_resp', 'unbind']);
});

describe('encryption', () => {
  /** A carrier that speaks TLS and nothing else, with a certificate of its own. */
  async function encrypted() {
    const { private: key, cert } = await selfsigned.generate([{ name: 'commonName', value: 'trunk.ostrel.example' }]);
    return { cert, ...(await carrier(take, 0, { key, cert })) };
  }

  test('a certificate that is given is believed, and texts go over it', async () => {
    const { port, cert } = await encrypted();
    const { link } = await open(port, { encryption: 'tls', believed: cert });
    expect(await link.submit(text())).toMatchObject({ ok: true });
  });

  test('one nobody believed signed: no bind is written, and it says so', async () => {
    const { port, heard } = await encrypted();
    const { changes } = await open(port, { encryption: 'tls' });
    expect(changes.at(-1)).toMatchObject({
      state: 'refused',
      cause: 'encryption-refused',
      said: /nobody who is believed/,
    });
    expect(heard).toEqual([]);
  });

  test('a carrier that does not speak TLS hears no password', async () => {
    const { port, heard } = await carrier(take);
    const { changes } = await open(port, { encryption: 'tls', answerSeconds: 1 });
    expect(changes.at(-1)).toMatchObject({
      cause: expect.stringMatching(/encryption-refused|provider-timeout|trunk-down/),
    });
    expect(heard).toEqual([]);
  });
});

test('a host on a private address is not connected to where that is not allowed', async () => {
  const { port, sessions } = await carrier(take);
  for (const host of ['127.0.0.1', 'localhost', '::ffff:127.0.0.1', '::127.0.0.1']) {
    const { changes } = await open(port, {}, undefined, { host, allowPrivate: false });
    expect(changes.at(-1)).toMatchObject({ state: 'refused', cause: 'address-not-allowed' });
    await link?.close();
  }
  expect(sessions).toEqual([]);
});

describe('what goes to many', () => {
  const words = (submits: readonly PDU[]) => submits.map(({ short_message }) => textOf(short_message));
  const textOf = (octets: unknown) =>
    Buffer.isBuffer(octets) ? octets.toString('latin1') : String((octets as { message?: unknown }).message ?? octets);

  test('yields: a text to one is written before all of it that is not on the wire', async () => {
    const answers: (() => void)[] = [];
    const { port, submits } = await carrier((pdu, session, nth) => answers.push(() => take(pdu, session, nth)));
    const { link } = await open(port, { window: 2 });
    const many = Array.from({ length: 6 }, (_, index) => link.submit({ ...text(`Many ${index}`), bulk: true }));
    await until(() => submits.length === 2);
    expect(link.room(0, true)).toBeLessThan(link.room(0, false));
    const one = link.submit(text('To one'));
    answers[0]?.();
    await until(() => submits.length === 3);
    for (let next = 1; next < 7; next++) {
      await until(() => answers.length > next);
      answers[next]?.();
    }
    await Promise.all([...many, one]);
    expect(words(submits)).toEqual(['Many 0', 'Many 1', 'To one', 'Many 2', 'Many 3', 'Many 4', 'Many 5']);
  });

  test('is asked for when its turn has come: what is kept back is not written, and takes no place', async () => {
    const { port, submits } = await carrier(take);
    const { link } = await open(port, { window: 1 });
    let held = false;
    const asked: string[] = [];
    const submit = (name: string) =>
      link.submit({
        ...text(name),
        bulk: true,
        stillLeaves: async () => {
          asked.push(name);
          return !held;
        },
      });
    await submit('Before');
    held = true;
    const kept = await Promise.all([submit('Kept 1'), submit('Kept 2')]);
    expect(kept.map((outcome) => !outcome.ok && outcome.failure.cause)).toEqual(['taken-back', 'taken-back']);
    held = false;
    expect(await submit('After')).toMatchObject({ ok: true });
    expect(words(submits)).toEqual(['Before', 'After']);
    expect(asked).toEqual(['Before', 'Kept 1', 'Kept 2', 'After']);
  });

  test('a text of which a part is written goes out whole, whoever comes meanwhile', async () => {
    const { port, submits } = await carrier(take);
    const { link } = await open(port, { window: 1, pace: 20 });
    const long = link.submit({ ...text(THREE_PARTS), bulk: true });
    await until(() => submits.length >= 1);
    await Promise.all([long, link.submit(text('To one'))]);
    expect(
      words(submits)
        .map((each) => each.slice(0, 6))
        .at(-1),
    ).toBe('To one');
    expect(submits).toHaveLength(4);
  });

  test('leaves a twentieth of the pace free', async () => {
    const times: number[] = [];
    const { port } = await carrier((pdu, session, nth) => {
      times.push(performance.now());
      take(pdu, session, nth);
    });
    const { link } = await open(port, { pace: 50, window: 50 });
    const began = performance.now();
    await Promise.all(Array.from({ length: 60 }, () => link.submit({ ...text('Many'), bulk: true })));
    expect((times[48] as number) - began).toBeGreaterThanOrEqual(990);
  });
});
