/** Secrets at rest: AES-256-GCM (NIST SP 800-38D), a fresh 96-bit nonce for each sealing, under a key that can be replaced. */
import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';

export interface Sealer {
  /** JSON value → `v2.` key `.` nonce `.` ciphertext and tag, base64url. */
  seal(value: unknown): string;
  /** Throws when the text was changed or sealed with a key that is not there. */
  open<T>(sealed: string): T;
  /** Whether a sealed text was sealed with the present key. */
  isPresent(sealed: string): boolean;
}

export interface SealingKey {
  /** The beginning of its digest: tells keys apart and says nothing of them. */
  id: string;
  bytes: Buffer;
}

/** The keys there are now, the present one first. */
export type KeyRing = () => readonly SealingKey[];

export function createSealer(keys: KeyRing | Buffer): Sealer {
  const ring = Buffer.isBuffer(keys) ? fixedRing(keys) : keys;
  const present = (): SealingKey => {
    const [first] = ring();
    if (!first) throw new Error('There is no sealing key');
    return first;
  };
  return {
    seal(value) {
      const { id, bytes } = present();
      const nonce = randomBytes(12);
      const cipher = createCipheriv('aes-256-gcm', bytes, nonce);
      const body = Buffer.concat([cipher.update(JSON.stringify(value), 'utf8'), cipher.final(), cipher.getAuthTag()]);
      return `v2.${id}.${nonce.toString('base64url')}.${body.toString('base64url')}`;
    },
    open<T>(sealed: string): T {
      const parts = sealed.split('.');
      const [nonce, body] = parts.slice(-2);
      // What was sealed before keys had names was sealed with one of those that are there.
      const candidates =
        parts[0] === 'v2' && parts.length === 4
          ? ring().filter(({ id }) => id === parts[1])
          : parts[0] === 'v1' && parts.length === 3
            ? ring()
            : undefined;
      if (!candidates || !nonce || !body) throw new Error('Not a sealed value');
      for (const { bytes } of candidates) {
        const text = decipher(bytes, nonce, body);
        if (text !== undefined) return JSON.parse(text) as T;
      }
      throw new Error('Sealed with a key that is not there, or changed since');
    },
    isPresent: (sealed) => sealed.startsWith(`v2.${present().id}.`),
  };
}

function decipher(key: Buffer, nonce: string, body: string): string | undefined {
  try {
    const bytes = Buffer.from(body, 'base64url');
    const opened = createDecipheriv('aes-256-gcm', key, Buffer.from(nonce, 'base64url'));
    opened.setAuthTag(bytes.subarray(-16));
    return Buffer.concat([opened.update(bytes.subarray(0, -16)), opened.final()]).toString('utf8');
  } catch {
    return undefined;
  }
}

function fixedRing(bytes: Buffer): KeyRing {
  const keys = [keyOf(bytes)];
  return () => keys;
}

function keyOf(bytes: Buffer): SealingKey {
  if (bytes.length !== 32) throw new RangeError('A sealing key has 32 bytes');
  return { id: createHash('sha256').update(bytes).digest('hex').slice(0, 8), bytes };
}

/**
 * The keys of the environment (64 hex digits each, the present one first), else those of the key file, one a line, which is
 * made (0600) when missing. The file is read again when it was changed: a process that runs takes a new key as it comes.
 */
export function keyRingOf(keyFile: string, fromEnvironment: string | undefined): KeyRing {
  if (fromEnvironment) {
    const keys = readKeys(fromEnvironment);
    return () => keys;
  }
  ensureKeyFile(keyFile);
  let seen = '';
  let keys: SealingKey[] = [];
  return () => {
    const { mtimeMs, ino } = statSync(keyFile);
    const state = `${mtimeMs} ${ino}`;
    if (state !== seen) {
      keys = readKeys(readFileSync(keyFile, 'utf8'));
      seen = state;
    }
    return keys;
  };
}

function readKeys(text: string): SealingKey[] {
  return text
    .split(/[\s,]+/)
    .filter(Boolean)
    .map((hex) => keyOf(Buffer.from(hex, 'hex')));
}

function ensureKeyFile(keyFile: string): void {
  if (existsSync(keyFile)) return;
  try {
    writeFileSync(keyFile, randomBytes(32).toString('hex'), { mode: 0o600, flag: 'wx' });
  } catch (error) {
    // Web and engine start together: the other one may have made it in between.
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  }
  chmodSync(keyFile, 0o600);
}

/** Puts a new key before those of the file: from then on it seals, and the former ones open what they sealed. */
export function addKey(keyFile: string): SealingKey {
  const bytes = randomBytes(32);
  writeKeys(keyFile, [bytes.toString('hex'), ...hexKeys(keyFile)]);
  return keyOf(bytes);
}

/** Leaves the present key alone in the file. What was sealed with another is lost then. */
export function dropFormerKeys(keyFile: string): number {
  const [present = '', ...former] = hexKeys(keyFile);
  writeKeys(keyFile, [present]);
  return former.length;
}

function hexKeys(keyFile: string): string[] {
  ensureKeyFile(keyFile);
  return readFileSync(keyFile, 'utf8').split(/\s+/).filter(Boolean);
}

/** Whole or not at all: whoever reads meanwhile reads what was there before. */
function writeKeys(keyFile: string, keys: readonly string[]): void {
  writeFileSync(`${keyFile}.new`, `${keys.join('\n')}\n`, { mode: 0o600 });
  renameSync(`${keyFile}.new`, keyFile);
}
