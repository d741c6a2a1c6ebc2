/** Secrets at rest: AES-256-GCM (NIST SP 800-38D), a fresh 96-bit nonce for each sealing. */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, writeFileSync } from 'node:fs';

export interface Sealer {
  /** JSON value → `v1.` nonce `.` ciphertext and tag, base64url. */
  seal(value: unknown): string;
  /** Throws when the text was changed or sealed with another key. */
  open<T>(sealed: string): T;
}

export function createSealer(key: Buffer): Sealer {
  if (key.length !== 32) throw new RangeError('A sealing key has 32 bytes');
  return {
    seal(value) {
      const nonce = randomBytes(12);
      const cipher = createCipheriv('aes-256-gcm', key, nonce);
      const body = Buffer.concat([cipher.update(JSON.stringify(value), 'utf8'), cipher.final(), cipher.getAuthTag()]);
      return `v1.${nonce.toString('base64url')}.${body.toString('base64url')}`;
    },
    open<T>(sealed: string): T {
      const [version, nonce, body] = sealed.split('.');
      if (version !== 'v1' || !nonce || !body) throw new Error('Not a sealed value');
      const bytes = Buffer.from(body, 'base64url');
      const decipher = createDecipheriv('aes-256-gcm', key, Buffer.from(nonce, 'base64url'));
      decipher.setAuthTag(bytes.subarray(-16));
      return JSON.parse(
        Buffer.concat([decipher.update(bytes.subarray(0, -16)), decipher.final()]).toString('utf8'),
      ) as T;
    },
  };
}

/** The key from the environment (64 hex digits), else from the key file, which is made (0600) when missing. */
export function loadSealingKey(keyFile: string, fromEnvironment: string | undefined): Buffer {
  if (fromEnvironment) return Buffer.from(fromEnvironment, 'hex');
  if (!existsSync(keyFile)) {
    try {
      writeFileSync(keyFile, randomBytes(32).toString('hex'), { mode: 0o600, flag: 'wx' });
    } catch (error) {
      // Web and engine start together: the other one may have made it in between.
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
    chmodSync(keyFile, 0o600);
  }
  return Buffer.from(readFileSync(keyFile, 'utf8').trim(), 'hex');
}
