/**
 * A passkey in software (WebAuthn Level 3): makes credentials and signs challenges as a device would, also wrongly. CBOR
 * (RFC 8949) is written by hand for the few shapes that are needed.
 */
import { createHash, createSign, generateKeyPairSync, type KeyObject, randomBytes } from 'node:crypto';

const url = (bytes: Buffer) => bytes.toString('base64url');
const sha = (bytes: Buffer | string) => createHash('sha256').update(bytes).digest();

/** Maps of integers and byte strings, and of texts: what an ES256 key and an attestation without statement are. */
function cbor(value: unknown): Buffer {
  const head = (major: number, n: number) =>
    n < 24
      ? Buffer.from([(major << 5) | n])
      : n < 256
        ? Buffer.from([(major << 5) | 24, n])
        : Buffer.from([(major << 5) | 25, n >> 8, n & 255]);
  if (typeof value === 'number') return value < 0 ? head(1, -1 - value) : head(0, value);
  if (Buffer.isBuffer(value)) return Buffer.concat([head(2, value.length), value]);
  if (typeof value === 'string') return Buffer.concat([head(3, Buffer.byteLength(value)), Buffer.from(value)]);
  if (value instanceof Map)
    return Buffer.concat([head(5, value.size), ...[...value].flatMap(([key, each]) => [cbor(key), cbor(each)])]);
  throw new TypeError('not needed');
}

export class SoftAuthenticator {
  readonly id = randomBytes(24);
  private readonly keys = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  counter = 1;
  /** Whether it says that it checked its person. */
  verifies = true;

  constructor(
    readonly origin: string,
    readonly rpId: string,
  ) {}

  register({ challenge }: { challenge: string }): object {
    const { x, y } = (this.keys.publicKey as KeyObject).export({ format: 'jwk' });
    const key = new Map<number, unknown>([
      [1, 2],
      [3, -7],
      [-1, 1],
      [-2, Buffer.from(x ?? '', 'base64url')],
      [-3, Buffer.from(y ?? '', 'base64url')],
    ]);
    const idLength = Buffer.alloc(2);
    idLength.writeUInt16BE(this.id.length);
    const data = Buffer.concat([this.head(0x41), Buffer.alloc(16), idLength, this.id, cbor(key)]);
    const attestation = cbor(
      new Map<string, unknown>([
        ['fmt', 'none'],
        ['attStmt', new Map()],
        ['authData', data],
      ]),
    );
    return this.answer({
      clientDataJSON: url(this.clientData('webauthn.create', challenge)),
      attestationObject: url(attestation),
      transports: ['internal'],
    });
  }

  show({ challenge }: { challenge: string }): object {
    this.counter += 1;
    const data = this.head(0x01);
    const client = this.clientData('webauthn.get', challenge);
    const signature = createSign('sha256')
      .update(Buffer.concat([data, sha(client)]))
      .sign(this.keys.privateKey);
    return this.answer({
      clientDataJSON: url(client),
      authenticatorData: url(data),
      signature: url(signature),
    });
  }

  private head(flags: number): Buffer {
    const counter = Buffer.alloc(4);
    counter.writeUInt32BE(this.counter);
    return Buffer.concat([sha(this.rpId), Buffer.from([flags | (this.verifies ? 0x04 : 0)]), counter]);
  }

  private clientData(type: string, challenge: string): Buffer {
    return Buffer.from(JSON.stringify({ type, challenge, origin: this.origin, crossOrigin: false }));
  }

  private answer(response: object): object {
    return { id: url(this.id), rawId: url(this.id), type: 'public-key', clientExtensionResults: {}, response };
  }
}
