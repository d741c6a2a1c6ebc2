import { type AddressInfo, createServer, type Server } from 'node:net';
import { afterEach, expect, test } from 'vitest';
import { systemClock } from '../../clock/clock';
import { networkOf } from '../outside/network';
import { tryMailbox } from './imap';

let server: Server | undefined;
afterEach(() => new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve())));

/** A server that answers the commands it is told about, and all others with OK (RFC 9051 §6). */
async function answering(answers: Record<string, string>): Promise<number> {
  server = createServer((socket) => {
    socket.on('error', () => undefined);
    socket.write('* OK ready\r\n');
    socket.on('data', (chunk) => {
      for (const line of chunk.toString().split('\r\n').filter(Boolean)) {
        const [tag, command = ''] = line.split(' ');
        if (command === 'CAPABILITY') socket.write('* CAPABILITY IMAP4rev1\r\n');
        socket.write(`${tag} ${answers[command.toUpperCase()] ?? 'OK done'}\r\n`);
      }
    });
  });
  const listening = server.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));
  return (listening.address() as AddressInfo).port;
}

test.each([
  ['LOGIN', 'NO [AUTHENTICATIONFAILED] wrong', 'credential-refused'],
  ['LOGIN', 'NO wrong', 'credential-refused'],
  ['LOGIN', 'NO [UNAVAILABLE] the directory is away', 'provider-unreachable'],
  ['LOGIN', 'NO [LIMIT] too many connections', 'provider-unreachable'],
  ['EXAMINE', 'NO [NONEXISTENT] no such mailbox', 'request-refused'],
  ['EXAMINE', 'NO [INUSE] locked', 'provider-unreachable'],
])('%s is answered with %s', async (command, answer, cause) => {
  const port = await answering({ [command]: answer });
  const account = { host: '127.0.0.1', port, user: 'desk', pass: 'right', folder: 'INBOX', security: 'none' as const };
  const looked = await tryMailbox(account, { network: networkOf({ allowPrivate: true }), clock: systemClock });
  expect(looked).toMatchObject({ ok: false, failure: { cause, said: expect.any(String) } });
});
