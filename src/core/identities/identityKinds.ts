/** The kinds of identities people have, each described once: whatever depends on what somebody is known by is asked here. */
import { z } from 'zod';
import { normaliseAddress } from '../addresses/address';
import { displayAddress } from '../addresses/display';
import type { Finding } from '../finding';

/** What was read of words that name somebody. */
export type ReadIdentity = { ok: true; value: string; country?: string } | { ok: false; finding: Finding };

interface KindOfIdentity {
  name: string;
  /** Words for somebody of whom nothing else is known; absent where the identity itself says something to a reader. */
  nameless?: string;
  /** Whoever knows it may write first; at others one only answers. */
  open: boolean;
  /** The same words at another account of the same provider are another person. */
  perAccount: boolean;
  /** It is a number of the telephone network: it tells a country, is charged by it, and is limited by range. */
  telephone: boolean;
  /** A program made it, so that nobody types it. */
  opaque: boolean;
  /** `country`: ISO 3166-1 alpha-2, assumed for national forms. */
  read(text: string, country?: string): ReadIdentity;
  show(value: string): string;
}

const KINDS = {
  phone: {
    name: 'Phone',
    open: true,
    perAccount: false,
    telephone: true,
    opaque: false,
    read: (text, country) => {
      const read = normaliseAddress(text, { defaultCountry: country });
      return read.ok ? { ok: true, value: read.address.value, country: read.address.country } : read;
    },
    show: displayAddress,
  },
  mail: {
    name: 'E-mail',
    open: true,
    perAccount: false,
    telephone: false,
    opaque: false,
    read: (text) => {
      // RFC 5321 §2.4 lets a server tell letter cases apart; none that people write to does.
      const read = z.email().max(254).safeParse(text.trim().toLowerCase());
      return read.success
        ? { ok: true, value: read.data }
        : unreadable(
            'mail-unreadable',
            `“${text.trim().slice(0, 60)}” is not an e-mail address.`,
            'Write it as name@host.',
          );
    },
    show: (value) => value,
  },
  handle: {
    name: 'Chat platform',
    nameless: 'somebody on a chat platform',
    open: false,
    perAccount: true,
    telephone: false,
    opaque: true,
    read: (text) =>
      /^[^\s\p{C}]{1,200}$/u.test(text)
        ? { ok: true, value: text }
        : unreadable('handle-unreadable', 'This is no id of a platform.', 'Use the id as the platform tells it.'),
    show: (value) => value,
  },
  visitor: {
    name: 'Web chat',
    nameless: 'a visitor',
    open: false,
    perAccount: false,
    telephone: false,
    opaque: true,
    read: (text) =>
      /^vis_\w+$/.test(text)
        ? { ok: true, value: text }
        : unreadable(
            'visitor-unknown',
            'A web chat reaches its visitors only.',
            'Answer over another channel, or wait until the person writes on the website.',
          ),
    show: () => 'a visitor of the website',
  },
} as const satisfies Record<string, KindOfIdentity>;

export type IdentityKind = keyof typeof KINDS;

/** In the order in which they tell a reader who somebody is. */
export const IDENTITY_KINDS = Object.keys(KINDS) as [IdentityKind, ...IdentityKind[]];

export function identityKind(kind: IdentityKind): KindOfIdentity {
  return KINDS[kind];
}

/**
 * What somebody typed to name a person, as the first kind that people type and that can be read: an e-mail address where
 * it has an @, else a number. What is none of them is said as of that likeliest kind.
 */
export function readTyped(text: string, country?: string): { kind: IdentityKind; read: ReadIdentity } {
  const likely: IdentityKind = text.includes('@') ? 'mail' : 'phone';
  for (const kind of [likely, ...IDENTITY_KINDS.filter((each) => each !== likely && !KINDS[each].opaque)]) {
    const read = identityKind(kind).read(text, country);
    if (read.ok) return { kind, read };
  }
  return { kind: likely, read: KINDS[likely].read(text, country) };
}

/** What somebody is known by: of several kinds, and for some of them within one account only. */
export interface Identity {
  kind: IdentityKind;
  /** The account it holds in; empty where it holds everywhere. */
  scope: string;
  value: string;
}

/** One string for each identity, such as for maps. */
export function identityKey({ kind, scope, value }: Identity): string {
  return JSON.stringify([kind, scope, value]);
}

/** What somebody is called within a sentence of whom only this is known. */
export function wordsFor({ kind, value }: Pick<Identity, 'kind' | 'value'>): string {
  return identityKind(kind).nameless ?? identityKind(kind).show(value);
}

/** The same where it stands for a name, such as in a list. */
export function nameOf(identity: Pick<Identity, 'kind' | 'value'>): string {
  const words = wordsFor(identity);
  return identityKind(identity.kind).nameless ? words.charAt(0).toUpperCase() + words.slice(1) : words;
}

function unreadable(code: string, problem: string, remedy: string): ReadIdentity {
  return { ok: false, finding: { code, severity: 'error', problem, remedy } };
}
