/**
 * Bollard, the organisation's identity provider: OpenID Connect Core 1.0 as a careful provider does it. A code is for one
 * client, one return address and one verifier (RFC 7636), and is used once. What it may do wrong is switched on from
 * outside, to see whether whoever relies on it notices.
 */
import { createHash, randomBytes } from 'node:crypto';
import { exportJWK, generateKeyPair, type JWK, SignJWT } from 'jose';
import { now } from '../clock';

export interface BollardPerson {
  id: string;
  email: string;
  verified: boolean;
  name: string;
  password: string;
  groups: string[];
}

export interface BollardSettings {
  clientId: string;
  clientSecret: string;
  /** Where people may be sent back to. */
  returns: string[];
  people: BollardPerson[];
}

/** What it may get wrong. */
export interface BollardFaults {
  down: boolean;
  nonce: boolean;
  audience: boolean;
  issuer: boolean;
  expired: boolean;
  /** Signs with a key that it has taken back, and no longer shows. */
  oldKey: boolean;
  /** Signs nothing: `alg` none (RFC 8725 §3.1). */
  unsigned: boolean;
}

interface Code {
  personId: string;
  clientId: string;
  returnTo: string;
  nonce?: string;
  challenge: string;
  signedInAt: number;
  endsAt: number;
}

const CODE_LASTS = 60_000;
const TOKEN_LASTS = 300;

type Key = { id: string; jwk: JWK; sign: CryptoKey };

export type Refused = { error: string; error_description: string };

export class Bollard {
  readonly faults: BollardFaults = {
    down: false,
    nonce: false,
    audience: false,
    issuer: false,
    expired: false,
    oldKey: false,
    unsigned: false,
  };
  /** Who is signed in here, by the cookie of their browser. */
  readonly sessions = new Map<string, { personId: string; signedInAt: number }>();
  private readonly codes = new Map<string, Code>();
  private keys: Promise<{ present: Key; old: Key }>;

  constructor(
    readonly settings: BollardSettings,
    readonly issuer: string,
  ) {
    this.keys = Promise.all([newKey(), newKey()]).then(([present, old]) => ({ present, old }));
  }

  /** Another key from now on; what was signed with the one before is not to be believed any more. */
  async rotate(): Promise<void> {
    const { present } = await this.keys;
    this.keys = newKey().then((fresh) => ({ present: fresh, old: present }));
    await this.keys;
  }

  async publicKeys(): Promise<{ keys: JWK[] }> {
    return { keys: [(await this.keys).present.jwk] };
  }

  personBy(email: string, password: string): BollardPerson | undefined {
    return this.settings.people.find((each) => each.email === email && each.password === password);
  }

  /** Signs somebody in here; returns the value of their cookie. */
  begin(personId: string): string {
    const id = randomBytes(16).toString('base64url');
    this.sessions.set(id, { personId, signedInAt: Math.floor(now() / 1000) });
    return id;
  }

  /** Why a request to sign in cannot even be answered at its return address. */
  problemOf(asked: URLSearchParams): string | undefined {
    if (asked.get('client_id') !== this.settings.clientId) return 'Nobody here is known by this client id.';
    const returnTo = asked.get('redirect_uri') ?? '';
    if (!this.settings.returns.includes(returnTo)) return `${returnTo} is no return address of this client.`;
    if (asked.get('response_type') !== 'code') return 'Only the authorisation code flow is spoken here.';
    if (!asked.get('scope')?.split(' ').includes('openid')) return 'The scope openid is missing.';
    if (asked.get('code_challenge_method') !== 'S256' || !asked.get('code_challenge'))
      return 'A code challenge by S256 is wanted (RFC 7636).';
    return undefined;
  }

  /** Where somebody who signed in is sent back to, with a code. */
  grant(asked: URLSearchParams, session: { personId: string; signedInAt: number }): string {
    const code = randomBytes(24).toString('base64url');
    const returnTo = asked.get('redirect_uri') ?? '';
    this.codes.set(code, {
      personId: session.personId,
      clientId: asked.get('client_id') ?? '',
      returnTo,
      ...(asked.get('nonce') ? { nonce: asked.get('nonce') as string } : {}),
      challenge: asked.get('code_challenge') ?? '',
      signedInAt: session.signedInAt,
      endsAt: now() + CODE_LASTS,
    });
    const back = new URL(returnTo);
    back.searchParams.set('code', code);
    if (asked.get('state')) back.searchParams.set('state', asked.get('state') as string);
    return back.href;
  }

  /** Tokens for a code. A code that is tried wrongly is used up, too. */
  async redeem(
    form: URLSearchParams,
    client: { id: string; secret: string },
  ): Promise<{ access_token: string; token_type: string; expires_in: number; id_token: string } | Refused> {
    if (client.id !== this.settings.clientId || client.secret !== this.settings.clientSecret)
      return { error: 'invalid_client', error_description: 'client id and secret do not fit' };
    if (form.get('grant_type') !== 'authorization_code')
      return { error: 'unsupported_grant_type', error_description: 'only authorization_code' };
    const code = this.codes.get(form.get('code') ?? '');
    this.codes.delete(form.get('code') ?? '');
    const problem = codeProblem(code, form, client.id);
    if (!code || problem) return { error: 'invalid_grant', error_description: problem ?? '' };
    return {
      access_token: randomBytes(24).toString('base64url'),
      token_type: 'Bearer',
      expires_in: TOKEN_LASTS,
      id_token: await this.idToken(code),
    };
  }

  private async idToken(code: Code): Promise<string> {
    const person = this.settings.people.find(({ id }) => id === code.personId);
    const { present, old } = await this.keys;
    const key = this.faults.oldKey ? old : present;
    const at = Math.floor(now() / 1000) - (this.faults.expired ? TOKEN_LASTS + 3600 : 0);
    const nonce = this.faults.nonce ? 'of-another-journey' : code.nonce;
    const claims = {
      email: person?.email,
      email_verified: person?.verified,
      name: person?.name,
      groups: person?.groups,
      auth_time: code.signedInAt,
      ...(nonce ? { nonce } : {}),
      iss: this.faults.issuer ? `${this.issuer}/other` : this.issuer,
      sub: code.personId,
      aud: this.faults.audience ? 'another-client' : code.clientId,
      iat: at,
      exp: at + TOKEN_LASTS,
    };
    if (this.faults.unsigned) {
      const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
      return `${part({ alg: 'none' })}.${part(claims)}.`;
    }
    return new SignJWT(claims).setProtectedHeader({ alg: 'RS256', kid: key.id }).sign(key.sign);
  }

  mayReturnTo(address: string): boolean {
    return this.settings.returns.some((each) => new URL(each).origin === originOf(address));
  }
}

function codeProblem(code: Code | undefined, form: URLSearchParams, clientId: string): string | undefined {
  if (!code || code.endsAt < now()) return 'the code is unknown, was used, or has run out';
  if (code.clientId !== clientId || code.returnTo !== form.get('redirect_uri')) return 'the code was made for another';
  const verifier = form.get('code_verifier') ?? '';
  const shown = createHash('sha256').update(verifier).digest('base64url');
  return shown === code.challenge ? undefined : 'the code verifier does not fit the challenge';
}

function originOf(address: string): string | undefined {
  return URL.canParse(address) ? new URL(address).origin : undefined;
}

async function newKey(): Promise<Key> {
  const { publicKey, privateKey } = await generateKeyPair('RS256', { extractable: true });
  const id = randomBytes(6).toString('hex');
  return { id, sign: privateKey, jwk: { ...(await exportJWK(publicKey)), kid: id, use: 'sig', alg: 'RS256' } };
}
