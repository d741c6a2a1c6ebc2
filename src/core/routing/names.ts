/** What a route may name, and what it is called. */
import type { Finding } from '../finding';
import type { Variant } from '../templates/template';
import type { OfficeHours } from './hours';

/** What ids are called on the screen. */
export interface RouteNames {
  channel: (id: string) => string;
  /** Of the app and its record together, such as “ticket at Weir Desk”. */
  record: (app: string, record: string) => string;
  hours: (id: string) => string;
  template: (id: string) => string;
  person: (id: string) => string;
  app: (id: string) => string;
  action: (id: string) => string;
  sheet: (id: string) => string;
  language: (tag: string) => string;
}

/** Ids as they are, for where nothing better is known. */
export const BARE_NAMES: RouteNames = {
  channel: (id) => id,
  record: (app, record) => `${record} at ${app}`,
  hours: (id) => id,
  template: (id) => id,
  person: (id) => id,
  app: (id) => id,
  action: (id) => id,
  sheet: (id) => id,
  language: (tag) => tag,
};

/** `a`, `a or b`, `a, b or c`. */
export function list(items: readonly string[], joint = 'or'): string {
  if (items.length < 2) return items[0] ?? '…';
  return `${items.slice(0, -1).join(', ')} ${joint} ${items.at(-1)}`;
}

export function quoted(words: readonly string[]): string {
  return list(words.map((word) => `“${word}”`));
}

/** By id, in the order they are offered. */
export interface RouteChoices {
  channels: [string, string][];
  /** Records whose open ones can be counted, as `app record`. */
  counted: [string, string][];
  /** Records that may have an owner, as `app record`. */
  owned: [string, string][];
  apps: [string, string][];
  actions: [string, string][];
  sheets: [string, string][];
  templates: [string, string][];
  /** Those a message can be known to answer. */
  answerable: [string, string][];
  /** All of them as they would be sent now. */
  offers: readonly { id: string; name: string; variants: readonly Variant[]; problem?: Finding }[];
  people: [string, string][];
  teams: string[];
  tags: string[];
  attributes: string[];
  languages: string[];
  /** ISO 3166-1 alpha-2. */
  countries: [string, string][];
  /** Of the organisation, where it has said one. */
  zone?: string;
}

const LANGUAGES = new Intl.DisplayNames(['en'], { type: 'language', fallback: 'code' });

/** Names for what a set says; what is gone is called so. */
export function namesOf(choices: RouteChoices, { hours }: { hours: readonly OfficeHours[] }): RouteNames {
  const of = (pairs: readonly (readonly [string, string])[]) => {
    const known = new Map(pairs);
    return (id: string) => known.get(id) ?? 'something that is gone';
  };
  const record = of([...choices.counted, ...choices.owned]);
  return {
    channel: of(choices.channels),
    record: (app, id) => record(`${app} ${id}`),
    hours: of(hours.map(({ id, name }) => [id, name] as const)),
    template: of(choices.templates),
    person: of(choices.people),
    app: of(choices.apps),
    action: of(choices.actions),
    sheet: of(choices.sheets),
    language: languageName,
  };
}

function languageName(tag: string): string {
  try {
    return LANGUAGES.of(tag) ?? tag;
  } catch {
    return tag;
  }
}
