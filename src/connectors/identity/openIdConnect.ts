/**
 * Signing in through an identity provider: OpenID Connect Core 1.0, the authorisation code flow (§3.1) with PKCE
 * (RFC 7636). The protocol's checks are the library's; every request goes out through ours, which holds to the rule on
 * private addresses. Metadata and keys are read for each sign-in, so that a key taken back counts at once.
 */
import {
  allowInsecureRequests,
  authorizationCodeGrant,
  buildAuthorizationUrl,
  buildEndSessionUrl,
  ClientSecretBasic,
  ClientSecretPost,
  Configuration,
  type CustomFetchOptions,
  calculatePKCECodeChallenge,
  clockSkew,
  customFetch,
  discovery,
  enableNonRepudiationChecks,
  None,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
} from 'openid-client';
import type { Clock } from '../../clock/clock';
import { NamedError } from '../../core/namedError';
import { OutboundError, type OutboundHttp } from '../http/outbound';

export interface IdentityAccess {
  /** Where it says of itself where everything is: below `/.well-known/openid-configuration`. */
  issuer: string;
  clientId: string;
  clientSecret: string;
}

/** What is kept between sending somebody there and their coming back. */
export interface Journey {
  state: string;
  nonce: string;
  verifier: string;
  /** They have to sign in there anew (§3.1.2.1, `prompt` and `max_age`). */
  anew: boolean;
}

export interface IdentityClaims {
  issuer: string;
  subject: string;
  email?: string;
  emailVerified: boolean;
  name?: string;
  groups: string[];
  /** To sign out there, too. */
  idToken: string;
}

/** What went wrong with a provider, in words for whoever set it up. */
export class IdentityError extends NamedError {
  static override readonly called = 'IdentityError';
  constructor(
    readonly kind: 'unreachable' | 'not-a-provider' | 'refused' | 'not-believed',
    message: string,
  ) {
    super(message);
  }
}

interface Surroundings {
  http: OutboundHttp;
  clock: Clock;
  /** Plain HTTP and private addresses, for a bench. */
  allowPrivate: boolean;
}

const TIMEOUT_MS = 8000;

export interface ProviderFacts {
  issuer: string;
  /** Whether it says that it can sign people out. */
  signsOut: boolean;
}

/** Reads what a provider says of itself; throws why it cannot be used. */
export async function readProvider(access: IdentityAccess, around: Surroundings): Promise<ProviderFacts> {
  const metadata = (await configurationOf(access, around)).serverMetadata();
  if (!metadata.authorization_endpoint || !metadata.token_endpoint || !metadata.jwks_uri)
    throw new IdentityError('not-a-provider', 'it names no place to sign in, no tokens or no keys');
  if (!metadata.supportsPKCE())
    throw new IdentityError('not-a-provider', 'it does not say that it checks PKCE with S256');
  return { issuer: metadata.issuer, signsOut: metadata.end_session_endpoint !== undefined };
}

/** Where somebody is sent, and what has to be kept until they come back. */
export async function beginJourney(
  access: IdentityAccess,
  around: Surroundings,
  { returnTo, anew }: { returnTo: string; anew: boolean },
): Promise<{ url: string; journey: Journey }> {
  const configuration = await configurationOf(access, around);
  const journey = { state: randomState(), nonce: randomNonce(), verifier: randomPKCECodeVerifier(), anew };
  // A scope that a provider does not know it may refuse; many tell groups without one.
  const groups = configuration.serverMetadata().scopes_supported?.includes('groups') ? ' groups' : '';
  const url = buildAuthorizationUrl(configuration, {
    redirect_uri: returnTo,
    scope: `openid email profile${groups}`,
    state: journey.state,
    nonce: journey.nonce,
    code_challenge: await calculatePKCECodeChallenge(journey.verifier),
    code_challenge_method: 'S256',
    ...(anew ? { prompt: 'login', max_age: '0' } : {}),
  });
  return { url: url.href, journey };
}

/** Who came back, once the provider has vouched for them: state, nonce, verifier, issuer, audience, time and signature fit. */
export async function endJourney(
  access: IdentityAccess,
  around: Surroundings,
  journey: Journey,
  back: URL,
  groupsClaim: string,
): Promise<IdentityClaims> {
  const configuration = await configurationOf(access, around);
  const tokens = await authorizationCodeGrant(configuration, back, {
    expectedState: journey.state,
    expectedNonce: journey.nonce,
    pkceCodeVerifier: journey.verifier,
    idTokenExpected: true,
    // What was signed into before this journey began is no signing in anew; a minute for the way.
    ...(journey.anew ? { maxAge: 60 } : {}),
  }).catch(told);
  const claims = tokens.claims();
  if (!claims || !tokens.id_token) throw new IdentityError('not-believed', 'it sent no ID token');
  const groups = claims[groupsClaim];
  return {
    issuer: claims.iss,
    subject: claims.sub,
    ...(typeof claims.email === 'string' ? { email: claims.email } : {}),
    emailVerified: claims.email_verified === true,
    ...(typeof claims.name === 'string' ? { name: claims.name } : {}),
    groups: Array.isArray(groups)
      ? groups.filter((each): each is string => typeof each === 'string')
      : typeof groups === 'string'
        ? [groups]
        : [],
    idToken: tokens.id_token,
  };
}

/** Where somebody is signed out at the provider (OpenID Connect RP-Initiated Logout 1.0); undefined where it cannot. */
export async function signOutUrl(
  access: IdentityAccess,
  around: Surroundings,
  { idToken, returnTo }: { idToken: string; returnTo: string },
): Promise<string | undefined> {
  const configuration = await configurationOf(access, around);
  if (!configuration.serverMetadata().end_session_endpoint) return undefined;
  return buildEndSessionUrl(configuration, { id_token_hint: idToken, post_logout_redirect_uri: returnTo }).href;
}

async function configurationOf(access: IdentityAccess, around: Surroundings): Promise<Configuration> {
  const issuer = URL.canParse(access.issuer) ? new URL(access.issuer) : undefined;
  if (!issuer) throw new IdentityError('not-a-provider', `“${access.issuer}” is no address`);
  if (issuer.protocol !== 'https:' && !around.allowPrivate)
    throw new IdentityError('not-a-provider', 'its address is not https');
  const ours = (url: string, options: CustomFetchOptions) => throughOurs(around.http, url, options);
  // Plain HTTP passes where private addresses do, and nowhere else.
  const execute = around.allowPrivate ? [allowInsecureRequests] : [];
  const found = await discovery(issuer, access.clientId, undefined, None(), { [customFetch]: ours, execute }).catch(
    told,
  );
  const server = found.serverMetadata();
  const ways = server.token_endpoint_auth_methods_supported ?? ['client_secret_basic'];
  const configuration = new Configuration(
    server,
    access.clientId,
    // A bench's clock may be ahead of the machine's.
    { [clockSkew]: Math.round(around.clock.ahead() / 1000) },
    ways.includes('client_secret_basic')
      ? ClientSecretBasic(access.clientSecret)
      : ClientSecretPost(access.clientSecret),
  );
  configuration[customFetch] = ours;
  for (const set of execute) set(configuration);
  enableNonRepudiationChecks(configuration);
  return configuration;
}

async function throughOurs(
  http: OutboundHttp,
  url: string,
  { method, headers, body }: CustomFetchOptions,
): Promise<Response> {
  const text = body === null || body === undefined ? undefined : String(body);
  const answer = await http({
    method,
    url,
    headers,
    timeoutMs: TIMEOUT_MS,
    ...(text === undefined ? {} : { body: text }),
  });
  const empty = answer.status === 204 || answer.status === 304;
  return new Response(empty ? null : answer.body, { status: answer.status, headers: answer.headers });
}

/** An error of the library as what it means; what it wraps says more than itself. */
function told(error: unknown): never {
  const chain: Error[] = [];
  for (let each = error; each instanceof Error && chain.length < 6; each = each.cause) chain.push(each);
  const unreachable = chain.find((each) => each instanceof OutboundError);
  if (unreachable) throw new IdentityError('unreachable', unreachable.message);
  const codes = chain.map((each) => (each as { code?: string }).code ?? '');
  if (codes.some((code) => REFUSALS.includes(code))) {
    const said = chain.find((each) => 'error' in each) as { error?: string; error_description?: string } | undefined;
    throw new IdentityError(
      'refused',
      [said?.error, said?.error_description].filter(Boolean).join(': ') || 'no reason given',
    );
  }
  const what = chain.at(-1)?.message ?? String(error);
  const other = codes.some((code) => code === 'OAUTH_RESPONSE_IS_NOT_CONFORM' || code === 'OAUTH_RESPONSE_IS_NOT_JSON');
  throw new IdentityError(other ? 'not-a-provider' : 'not-believed', what);
}

const REFUSALS = [
  'OAUTH_RESPONSE_BODY_ERROR',
  'OAUTH_AUTHORIZATION_RESPONSE_ERROR',
  'OAUTH_WWW_AUTHENTICATE_CHALLENGE',
];
