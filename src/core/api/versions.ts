/**
 * Versions of the public API, by the day each began. A key and a subscription keep the one they were made with; what
 * changed since is taken back from an answer step by step, so that programs go on as they were written.
 */

export interface ApiVersion {
  /** The day it began, which is its name. */
  version: string;
  /** What is different from the one before, for whoever writes to it. */
  changes: readonly string[];
  /** Epoch milliseconds: since when it should no longer be used, and when it ends. */
  deprecatedAt?: number;
  sunsetAt?: number;
  /** An answer of the next version as this one gives it. */
  back?(answer: unknown): unknown;
}

/** Oldest first. */
export const API_VERSIONS: readonly ApiVersion[] = [
  {
    version: '2026-05-01',
    changes: ['The first version.'],
    deprecatedAt: Date.UTC(2026, 10, 30),
    sunsetAt: Date.UTC(2027, 10, 30),
    back: withFormerName,
  },
  {
    version: '2026-11-30',
    changes: [
      '`mend`, the former name of `fix`, is gone from problems, findings and the causes of messages.',
      'Verification codes: POST /codes, GET /codes/{id}, POST /codes/{id}/check.',
      'A key sees the messages its app sent or was told of, and their people; the scope messages:all opens those of all apps.',
      'Messages have `fallback`, the channel they go over if this one does not deliver them, and `insteadOf`, the message whose second way they are.',
      '`validUntil` may be given with a message: it is not sent after that moment.',
      '`choices` may be given with a message, answers that may be pressed; messages have `choices`.',
      'E-mail: `subject` may be given with a message; messages have `subject`, `files` and `automatic`, and contacts identities of the kinds mail and handle.',
      'Broadcasts: POST /broadcasts and what belongs to it, and the events windgap.broadcast.started, .held and .finished.',
      'What is in another state by now is answered 409; 422 for it is gone.',
      'A subscription is told what became of the messages its app sent; `filter.allApps` asks for those of everybody.',
    ],
  },
];

export const LATEST_VERSION = (API_VERSIONS.at(-1) as ApiVersion).version;
export const FIRST_VERSION = (API_VERSIONS[0] as ApiVersion).version;

export function isApiVersion(version: string): boolean {
  return API_VERSIONS.some((known) => known.version === version);
}

export function versionNamed(version: string): ApiVersion {
  // One that a later Windgap wrote and this one does not know is answered as the latest.
  return API_VERSIONS.find((known) => known.version === version) ?? (API_VERSIONS.at(-1) as ApiVersion);
}

/** An answer of the latest version as `version` gives it. */
export function answerIn(version: string, answer: unknown): unknown {
  const at = API_VERSIONS.findIndex((known) => known.version === version);
  if (at === -1) return answer;
  return API_VERSIONS.slice(at)
    .reverse()
    .reduce((value, { back }) => (back ? back(value) : value), answer);
}

/**
 * Header fields that tell whoever calls with an old version: `Deprecation` (RFC 9745 §2.1, a Date structured field),
 * `Sunset` (RFC 8594 §3, an HTTP-date) and a link to what changed (RFC 9745 §3).
 */
export function versionFields(version: string, changesUrl: string): Record<string, string> {
  const { deprecatedAt, sunsetAt, version: name } = versionNamed(version);
  return {
    'windgap-version': name,
    ...(deprecatedAt === undefined ? {} : { deprecation: `@${deprecatedAt / 1000}` }),
    ...(sunsetAt === undefined ? {} : { sunset: new Date(sunsetAt).toUTCString() }),
    ...(deprecatedAt === undefined ? {} : { link: `<${changesUrl}>; rel="deprecation"; type="text/html"` }),
  };
}

/** Beside each `fix`, which only what says a problem has, its former name. */
function withFormerName(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withFormerName);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).map(([name, inner]) => [name, withFormerName(inner)] as const);
  const { fix, code } = value as { fix?: unknown; code?: unknown };
  return Object.fromEntries(
    typeof fix === 'string' && typeof code === 'string' ? [...entries, ['mend', fix] as const] : entries,
  );
}
