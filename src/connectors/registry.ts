/** The connectors there are: those of the shipped profiles, those added in the interface, and the web chat. */

import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Connector } from './connector';
import type { Outside } from './outside/outside';
import { connectorFromProfile } from './profile/connectorFromProfile';
import { readProfile } from './profile/readProfile';
import { WEB_CHAT } from './webchat/connector';

export interface StoredProfile {
  id: string;
  text: string;
}

export interface ConnectorRegistry {
  list(): Connector[];
  /** Throws when there is none. */
  get(id: string): Connector;
  has(id: string): boolean;
  /** The YAML behind a connector and whether it ships with Windgap; undefined for one that is code. */
  profileOf(id: string): { text: string; shipped: boolean } | undefined;
  /**
   * Takes the profiles added in the interface in place of those taken before, and shipped ones to which something was
   * added here. One that cannot be read is left out.
   */
  adopt(stored: readonly StoredProfile[], amended?: readonly StoredProfile[]): void;
  /** The profile that ships, without what was added here. */
  shippedText(id: string): string | undefined;
  /** A connector of a profile that is not (yet) among these. Throws with the findings. */
  build(text: string): Connector;
}

/** Reads every `*.yaml` in the folders. Throws with the file's name and the findings when a profile is not right. */
export function loadConnectors(folders: readonly string[], outside: Outside): ConnectorRegistry {
  const shipped = new Map<string, { connector: Connector; text?: string }>();
  for (const file of folders.flatMap(yamlFiles)) {
    const text = readFileSync(file, 'utf8');
    const connector = connectorFromProfile(readProfile(text, file), outside);
    shipped.set(connector.id, { connector, text });
  }
  shipped.set(WEB_CHAT.id, { connector: WEB_CHAT });
  let added = new Map<string, { connector: Connector; text?: string }>();
  let amended = new Map<string, { connector: Connector; text?: string }>();
  const find = (id: string) => amended.get(id) ?? shipped.get(id) ?? added.get(id);
  const build = (text: string) => connectorFromProfile(readProfile(text, 'the profile'), outside);

  return {
    list: () => [...shipped.keys(), ...added.keys()].flatMap((id) => find(id)?.connector ?? []),
    has: (id) => find(id) !== undefined,
    get(id) {
      const entry = find(id);
      if (!entry) throw new Error(`There is no connector "${id}"`);
      return entry.connector;
    },
    profileOf(id) {
      const text = find(id)?.text;
      return text === undefined ? undefined : { text, shipped: shipped.has(id) };
    },
    adopt(stored, changed = []) {
      const taken = (profiles: readonly StoredProfile[], before: typeof added, fits: (id: string) => boolean) => {
        const next: typeof added = new Map();
        for (const { id, text } of profiles) {
          if (!fits(id)) continue;
          const known = before.get(id);
          try {
            next.set(id, known?.text === text ? known : { connector: build(text), text });
          } catch {
            // Saved by another version of Windgap; the page of the profile says what is wrong with it.
          }
        }
        return next;
      };
      added = taken(stored, added, (id) => !shipped.has(id));
      amended = taken(changed, amended, (id) => shipped.has(id));
    },
    shippedText: (id) => shipped.get(id)?.text,
    build,
  };
}

export function yamlFiles(folder: string): string[] {
  return readdirSync(folder)
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => join(folder, name));
}
