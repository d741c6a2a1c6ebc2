/** The stored people: who they are, their sessions, and what they sign in with. */
import { define, generated, json, orNull, type RowOf, text, whole } from './definition';

export type Role = 'owner' | 'administrator' | 'agent' | 'viewer';

export const users = define('users', ['id'], {
  id: text(),
  email: text(),
  name: text(),
  role: text<Role>(),
  password_hash: text(),
  created_at: whole(),
  disabled_at: orNull(whole()),
  /** Whether they may write first, or only answer. */
  may_start: whole(),
  /** Whether they get a mail when somebody writes in a conversation of theirs. */
  mail_me: whole(),
  /** When they were last there. */
  seen_at: orNull(whole()),
  /** The secret of one-time codes (RFC 6238), sealed, where they use them. */
  sealed_code_secret: orNull(text()),
  /** The time step of the last code that was taken: none is taken twice. */
  code_step: orNull(whole()),
  /** Issuer and subject at the identity provider, where they sign in through one. */
  provider_subject: orNull(text()),
});
export type UserRow = RowOf<typeof users>;

/** Channels, apps and conversations belong to one by its name, or to nobody in particular. */
export const teams = define('teams', ['name'], {
  name: text(),
  /** 1: what belongs to it is for its members alone. */
  members_only: whole(),
  created_at: whole(),
});
export type TeamRow = RowOf<typeof teams>;

export const teamMembers = define('team_members', ['team', 'user_id'], {
  team: text(),
  user_id: text(),
});

export type SignInWay =
  | 'password'
  | 'password and code'
  | 'password and passkey'
  | 'password and recovery code'
  | 'passkey'
  | 'provider';

export const sessions = define('sessions', ['id'], {
  id: text(),
  user_id: text(),
  token_hash: text(),
  created_at: whole(),
  /** To the minute. */
  seen_at: whole(),
  address: text(),
  browser: text(),
  ended_at: orNull(whole()),
  ended_why: orNull(
    text<
      | 'signed out'
      | 'ended by hand'
      | 'left alone'
      | 'new password'
      | 'another role'
      | 'switched off'
      | 'second factor changed'
    >(),
  ),
  /** What was shown to sign in. */
  way: text<SignInWay>(),
  /** When the person last showed that it is they, by signing in or when asked again. */
  confirmed_at: whole(),
  /** What the identity provider gave, sealed, to sign out there, too. */
  provider_token: orNull(text()),
});
export type SessionRow = RowOf<typeof sessions>;

/** Invitations, and codes for whoever lost their password. */
export const entryCodes = define('entry_codes', ['id'], {
  id: text(),
  user_id: text(),
  code_hash: text(),
  kind: text<'invite' | 'recover'>(),
  made_by: text(),
  created_at: whole(),
  expires_at: whole(),
  used_at: orNull(whole()),
});

export const signInFailures = define('sign_in_failures', ['id'], {
  id: generated(),
  subject: text(),
  at: whole(),
});
export type SignInFailureRow = RowOf<typeof signInFailures>;

/** Keys on devices of people (WebAuthn Level 3). */
export const passkeys = define('passkeys', ['id'], {
  /** The credential's id, base64url. */
  id: text(),
  user_id: text(),
  /** COSE, base64url. */
  public_key: text(),
  counter: whole(),
  transports: json<string[]>(),
  name: text(),
  created_at: whole(),
  used_at: orNull(whole()),
});
export type PasskeyRow = RowOf<typeof passkeys>;

export const recoveryCodes = define('recovery_codes', ['code_hash'], {
  code_hash: text(),
  user_id: text(),
  created_at: whole(),
  used_at: orNull(whole()),
});

/** What a sign-in waits for between two requests: a second factor, a challenge, an answer of the identity provider. */
export const signInSteps = define('sign_in_steps', ['token_hash'], {
  token_hash: text(),
  kind: text<SignInStepKind>(),
  user_id: orNull(text()),
  value: json<Record<string, unknown>>(),
  created_at: whole(),
  expires_at: whole(),
});
export type SignInStepKind = 'second' | 'enrol' | 'passkey' | 'add-passkey' | 'add-codes' | 'provider';
export type SignInStepRow = RowOf<typeof signInSteps>;
