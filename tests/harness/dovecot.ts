/** A real mail server beside the product: Debian's dovecot keeps the mailboxes and serves them over IMAP, and mail sent over SMTP is put into them. */
import { type ChildProcess, spawn } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { dirname, join } from 'node:path';
import { SMTPServer } from 'smtp-server';
import { connectProvider } from '../../src/operations/accounts/accounts';
import { openChannel } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import type { ChannelRow } from '../../src/store/schema/rows';
import { freePorts, type Installation } from './processes';
import { until } from './until';

export const PASSWORD = 'right-and-long';

export interface MailServer {
  imapPort: number;
  smtpPort: number;
  /** Puts a mail into a mailbox, as whoever delivers does (Maildir). */
  deliver(user: string, source: string | Buffer): void;
  /** What lies in a mailbox, and whether somebody has looked at it. */
  mailbox(user: string): { source: string; seen: boolean }[];
  /** The server counts the mails of a mailbox anew: another UIDVALIDITY. */
  countAnew(user: string): void;
  start(): Promise<void>;
  stop(): Promise<void>;
  end(): Promise<void>;
}

/** Root is let near no mailbox by dovecot: they belong to a user without rights then. */
const OWNER = process.getuid?.() === 0 ? { name: 'mail', uid: 8, gid: 8 } : undefined;

/** A folder that the owner of the mailboxes may get to as well: a temporary folder may lie in one that is closed to all others. */
function placeForMail(): string {
  const open = (path: string): boolean =>
    (statSync(path).mode & 0o001) !== 0 && (dirname(path) === path || open(dirname(path)));
  const place = [tmpdir(), '/tmp', '/var/tmp', '/dev/shm', '/run'].find(
    (path) => !OWNER || (existsSync(path) && open(realpathSync(path))),
  );
  if (!place) throw new Error(`There is no folder ${OWNER?.name} may get to: no mail server can keep mail here.`);
  return mkdtempSync(join(place, 'windgap-mail-'));
}

export async function startMailServer(users: readonly string[]): Promise<MailServer> {
  const folder = placeForMail();
  chmodSync(folder, 0o755);
  const [imapPort = 0] = await freePorts(1);
  const me = userInfo().username;
  const conf = join(folder, 'dovecot.conf');
  writeFileSync(
    conf,
    `protocols = imap
listen = 127.0.0.1
base_dir = ${folder}/run
log_path = ${folder}/log
ssl = no
disable_plaintext_auth = no
${OWNER ? '' : `default_login_user = ${me}\ndefault_internal_user = ${me}\ndefault_internal_group = ${me}\n`}
mail_uid = ${OWNER?.uid ?? userInfo().uid}
mail_gid = ${OWNER?.gid ?? userInfo().gid}
first_valid_uid = 1
mail_location = maildir:${folder}/mail/%u
passdb {
  driver = static
  args = password=${PASSWORD}
}
userdb {
  driver = static
  args = home=${folder}/mail/%u
}
service imap-login {
  ${OWNER ? '' : 'chroot ='}
  inet_listener imap {
    port = ${imapPort}
  }
  inet_listener imaps {
    port = 0
  }
}
${OWNER ? '' : 'service anvil {\n  chroot =\n}\n'}`,
  );
  mkdirSync(join(folder, 'run'));
  const own = (path: string) => OWNER && chownSync(path, OWNER.uid, OWNER.gid);
  for (const path of [
    'mail',
    ...users.flatMap((user) => ['', '/cur', '/new', '/tmp'].map((part) => `mail/${user}${part}`)),
  ]) {
    mkdirSync(join(folder, path));
    own(join(folder, path));
  }
  const smtp = new SMTPServer({
    disabledCommands: ['STARTTLS'],
    allowInsecureAuth: true,
    onAuth: ({ username, password }, _session, done) =>
      password === PASSWORD ? done(null, { user: username }) : done(new Error('no such password')),
    onRcptTo: ({ address }, _session, done) =>
      users.includes(address) ? done() : done(Object.assign(new Error('no such mailbox'), { responseCode: 550 })),
    onData(stream, { envelope }, done) {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        for (const { address } of envelope.rcptTo) deliver(address, Buffer.concat(chunks));
        done();
      });
    },
  });
  smtp.on('error', () => undefined);
  const listening = smtp.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));

  let delivered = 0;
  const boxOf = (user: string) => join(folder, 'mail', user);
  function deliver(user: string, source: string | Buffer) {
    const name = `${Math.floor(Date.now() / 1000)}.${++delivered}.harness`;
    const path = join(boxOf(user), 'tmp', name);
    writeFileSync(path, typeof source === 'string' ? source.replaceAll('\n', '\r\n') : source);
    own(path);
    renameSync(path, join(boxOf(user), 'new', name));
  }

  let server: ChildProcess | undefined;
  const mails: MailServer = {
    imapPort,
    smtpPort: (listening.address() as AddressInfo).port,
    deliver,
    mailbox: (user) =>
      ['new', 'cur'].flatMap((part) =>
        readdirSync(join(boxOf(user), part)).map((name) => ({
          source: readFileSync(join(boxOf(user), part, name), 'latin1'),
          seen: /:2,.*S/.test(name),
        })),
      ),
    countAnew(user) {
      for (const name of readdirSync(boxOf(user)))
        if (/^dovecot/.test(name) && statSync(join(boxOf(user), name)).isFile()) rmSync(join(boxOf(user), name));
      const list = join(boxOf(user), 'dovecot-uidlist');
      writeFileSync(list, `3 V${Math.floor(Date.now() / 1000) + 100} N1 G0123456789abcdef0123456789abcdef\n`);
      own(list);
    },
    async start() {
      server = spawn('/usr/sbin/dovecot', ['-F', '-c', conf], { stdio: 'ignore' });
      const { connect } = await import('node:net');
      await until('dovecot answers', () => {
        if (server?.exitCode !== null) throw new Error(`dovecot ended: ${readFileSync(join(folder, 'log'), 'utf8')}`);
        return new Promise<boolean>((resolve) => {
          const socket = connect(imapPort, '127.0.0.1', () => resolve(true));
          socket.on('error', () => resolve(false));
          socket.on('connect', () => socket.destroy());
        });
      });
    },
    async stop() {
      const ending = server;
      if (!ending || ending.exitCode !== null) return;
      const ended = new Promise((resolve) => ending.once('exit', resolve));
      ending.kill('SIGTERM');
      await ended;
    },
    async end() {
      await mails.stop();
      await new Promise<void>((resolve) => smtp.close(() => resolve()));
      rmSync(folder, { recursive: true, force: true });
    },
  };
  await mails.start();
  return mails;
}

export const credentialsFor = ({ smtpPort, imapPort }: MailServer, address: string) => ({
  smtpHost: '127.0.0.1',
  smtpPort: String(smtpPort),
  imapHost: '127.0.0.1',
  imapPort: String(imapPort),
  user: address,
  password: PASSWORD,
  address,
  folder: 'INBOX',
});

/** A mailbox of it as a channel. */
export async function connectMailServer(
  { ctx }: Pick<Installation, 'ctx'>,
  server: MailServer,
  address: string,
): Promise<ChannelRow> {
  const { id } = await connectProvider(ctx, SYSTEM, {
    connector: 'mail-server',
    name: 'Our mail server',
    credentials: credentialsFor(server, address),
  });
  const number = await ctx.store.numbers.one({ account_id: id });
  const opened = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Post desk' });
  return (await ctx.store.channels.one({ id: opened.id })) as ChannelRow;
}
