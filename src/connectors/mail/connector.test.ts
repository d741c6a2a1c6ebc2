import { readFileSync } from 'node:fs';
import type { AddressInfo, Socket } from 'node:net';
import { join } from 'node:path';
import selfsigned from 'selfsigned';
import { SMTPServer, type SMTPServerOptions } from 'smtp-server';
import { afterEach, describe, expect, test } from 'vitest';
import { systemClock } from '../../clock/clock';
import type { InboundHttpRequest } from '../connector';
import { networkOf } from '../outside/network';
import { connectorFromProfile } from '../profile/connectorFromProfile';
import { readProfile } from '../profile/readProfile';
import type { SmtpAccount } from './security';
import { talkSmtp } from './smtp';

const YAML = readFileSync(join(import.meta.dirname, '../profiles/fennick.yaml'), 'utf8');
const connector = connectorFromProfile(readProfile(YAML, 'fennick'), {
  http: async () => ({ status: 404, headers: {}, body: '{"fault":"unknown"}' }),
  network: networkOf({ allowPrivate: true }),
  clock: systemClock,
});
const TEXT = {
  reference: 'msg_1',
  sender: 'desk@mossgate.example',
  recipient: '+447700900123',
  mailTo: '447700900123@texts.example',
  text: 'The lock opens at 9',
  receiptUrl: '',
  numberId: '',
};

let server: SMTPServer | undefined;
afterEach(() => new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve())));

async function credentialsFor(options: SMTPServerOptions) {
  const mails: string[] = [];
  /** Names somebody tried to sign in with. */
  const heard: string[] = [];
  server = new SMTPServer({
    disabledCommands: ['STARTTLS'],
    allowInsecureAuth: true,
    onAuth({ username = '', password }, _session, done) {
      heard.push(username);
      if (password === 'right') done(null, { user: username });
      else done(new Error('no such password'));
    },
    onData(stream, _session, done) {
      let text = '';
      stream.on('data', (chunk) => {
        text += chunk;
      });
      stream.on('end', () => {
        mails.push(text);
        done();
      });
    },
    ...options,
  });
  server.on('error', () => undefined);
  const listening = server.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));
  const { port } = listening.address() as AddressInfo;
  const credentials = {
    host: '127.0.0.1',
    port: String(port),
    user: 'mossgate',
    password: 'right',
    address: 'desk@mossgate.example',
    lookupAddress: 'https://lookup.example',
    lookupKey: 'k',
    word: 'heron-staircase',
  };
  return { credentials, mails, heard };
}

/** A refusal with an SMTP reply code. */
const reply = (responseCode: number) => Object.assign(new Error('refused'), { responseCode });

test('a text becomes a mail without a subject, and its id is ours', async () => {
  const { credentials, mails } = await credentialsFor({});
  const outcome = await connector.send?.(credentials, TEXT);
  expect(outcome).toMatchObject({ ok: true, value: { providerMessageId: 'msg_1@mossgate.example' } });
  expect(mails[0]).toContain('To: 447700900123@texts.example');
  expect(mails[0]).toContain('The lock opens at 9');
  expect(mails[0]).not.toMatch(/^Subject:/m);
  expect(JSON.stringify(outcome)).not.toContain('"right"');
});

describe('refusals by reply code (RFC 5321 §4.2)', () => {
  test('a wrong password', async () => {
    const { credentials } = await credentialsFor({});
    const outcome = await connector.checkAccount({ ...credentials, password: 'wrong' }, {});
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'credential-refused' } });
  });

  test.each([
    [550, 'address-malformed'],
    [552, 'content-refused'],
    [450, 'throttled'],
    [571, 'request-refused'],
  ])('%d', async (code, cause) => {
    const { credentials } = await credentialsFor({ onRcptTo: (_address, _session, done) => done(reply(code)) });
    const outcome = await connector.send?.(credentials, TEXT);
    expect(outcome).toMatchObject({ ok: false, failure: { cause }, exchange: { response: { status: code } } });
  });

  test('554 in the place of a greeting is a service that is away, and no verdict on the text', async () => {
    const { credentials } = await credentialsFor({ onConnect: (_session, done) => done(reply(554)) });
    const outcome = await connector.send?.(credentials, TEXT);
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'provider-unreachable' } });
  });

  test('nobody at the port', async () => {
    const { credentials } = await credentialsFor({});
    const outcome = await connector.send?.({ ...credentials, port: '1' }, TEXT);
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'provider-unreachable' } });
  });
});

describe('encryption', () => {
  const account = (port: number) => ({
    host: 'localhost',
    port,
    user: 'mossgate',
    pass: 'right',
    from: 'desk@mossgate.example',
  });
  const outside = { network: networkOf({ allowPrivate: true }), clock: systemClock };
  const verify = (given: ReturnType<typeof account> & Pick<SmtpAccount, 'security' | 'believed'>) =>
    talkSmtp(
      given,
      { headers: {}, body: null },
      async (transporter) => ({ value: await transporter.verify(), answer: 'signed in' }),
      outside,
    );
  const refusedFor = (said: RegExp) => ({
    ok: false,
    failure: { cause: 'encryption-refused', said: expect.stringMatching(said) },
  });

  test('required and not offered: nothing is said, neither name nor password', async () => {
    const { credentials, heard } = await credentialsFor({});
    expect(await verify({ ...account(Number(credentials.port)), security: 'starttls' })).toMatchObject(
      refusedFor(/offers no encryption/),
    );
    expect(heard).toEqual([]);
    expect(await verify({ ...account(Number(credentials.port)), security: 'tls' })).toMatchObject(
      refusedFor(/does not speak TLS/),
    );
    expect(await verify({ ...account(Number(credentials.port)), security: 'none' })).toMatchObject({ ok: true });
  });

  test.each(['starttls', 'tls'] as const)(
    '%s: a certificate nobody believed signed is refused, one that is given counts',
    async (security) => {
      const { private: key, cert } = await selfsigned.generate([
        { name: 'commonName', value: 'mail.mossgate.example' },
      ]);
      const { credentials, heard } = await credentialsFor({
        key,
        cert,
        secure: security === 'tls',
        disabledCommands: [],
      });
      const given = { ...account(Number(credentials.port)), security };
      expect(await verify(given)).toMatchObject(refusedFor(/nobody who is believed/));
      expect(heard).toEqual([]);
      // It is for another name than the host's; pinned, that is of no matter.
      expect(await verify({ ...given, believed: cert })).toMatchObject({ ok: true });
    },
  );

  test('a server on a private address is not connected to where that is not allowed', async () => {
    const { credentials, heard } = await credentialsFor({});
    for (const host of ['localhost', '127.0.0.1', '::1', '::ffff:127.0.0.1'])
      expect(
        await talkSmtp(
          { ...account(Number(credentials.port)), host },
          { headers: {}, body: null },
          async () => ({ value: 1, answer: '' }),
          {
            ...outside,
            network: networkOf({ allowPrivate: false }),
          },
        ),
      ).toMatchObject({ ok: false, failure: { cause: 'address-not-allowed' } });
    expect(heard).toEqual([]);
  });
});

describe('what is posted to us', () => {
  const parse = (body: unknown) =>
    connector.parse(
      {
        method: 'POST',
        url: 'https://w.example/in/x',
        headers: {},
        body: Buffer.from(typeof body === 'string' ? body : JSON.stringify(body)),
      } as InboundHttpRequest,
      {},
    );
  const mail = (text: string) => parse({ mail: [{ id: 'm1', from: '447700900123@texts.example', to: 'desk', text }] });

  test('a reply comes without what it answers', () => {
    for (const quote of ['\n> The lock opens at 9', '\r\n\r\nOn Wednesday the desk wrote:\r\n> The lock']) {
      expect(mail(`Thank you!${quote}`)).toMatchObject({ ok: true, items: [{ text: 'Thank you!' }] });
    }
  });

  test('a text that is a quotation altogether is kept', () => {
    expect(mail('> so it goes')).toMatchObject({ items: [{ text: '> so it goes', from: '+447700900123' }] });
  });

  test('a bounce is a receipt for the mail it came back for', () => {
    expect(parse({ returned: [{ message: '<msg_1@mossgate.example>', words: 'no such user' }] })).toMatchObject({
      items: [
        { kind: 'receipt', providerMessageId: 'msg_1@mossgate.example', state: 'undelivered', cause: 'mail-bounced' },
      ],
    });
  });

  test.each(['{', '{}', '{"mail":[{}]}'])('%s is not understood, and says why', (body) => {
    expect(parse(body)).toMatchObject({ ok: false, reason: expect.any(String) });
  });
});

describe('a connection that breaks', () => {
  const cut = () => {
    for (const connection of server?.connections ?? [])
      (connection as unknown as { _socket: Socket })._socket.destroy();
  };

  test('after the whole mail was written: whether it was taken is not known', async () => {
    const { credentials } = await credentialsFor({
      onData(stream) {
        stream.on('data', () => undefined);
        stream.on('end', cut);
      },
    });
    const outcome = await connector.send?.(credentials, TEXT);
    expect(outcome).toMatchObject({ ok: false, failure: { outcomeUnknown: true } });
  });

  test('before it was: it was not', async () => {
    const { credentials } = await credentialsFor({ onRcptTo: () => cut() });
    const outcome = await connector.send?.(credentials, TEXT);
    expect(outcome).toMatchObject({ ok: false, failure: { cause: 'provider-unreachable' } });
    expect(outcome && !outcome.ok && outcome.failure.outcomeUnknown).toBeFalsy();
  });
});
