/** The apps whose records can be kept: those of the shipped profiles. */

import { readFileSync } from 'node:fs';
import type { Clock } from '../../clock/clock';
import type { OutboundHttp } from '../http/outbound';
import { examineDocument } from '../profile/readProfile';
import { yamlFiles } from '../registry';
import { type AppConnector, appConnector } from './appConnector';
import { appProfileSchema } from './schema';

export interface AppRegistry {
  list(): AppConnector[];
  /** Throws when there is none. */
  get(id: string): AppConnector;
}

/** Reads every `*.yaml` in the folder. Throws with the file's name and the findings when a profile is not right. */
export function loadApps(folder: string, http: OutboundHttp, clock: Clock): AppRegistry {
  const connectors = new Map<string, AppConnector>();
  for (const file of yamlFiles(folder)) {
    const reading = examineDocument(readFileSync(file, 'utf8'), appProfileSchema);
    if (!reading.ok)
      throw new Error(`App profile ${file}:\n${reading.findings.map(({ problem }) => problem).join('\n')}`);
    connectors.set(reading.profile.id, appConnector(reading.profile, http, clock));
  }
  return {
    list: () => [...connectors.values()],
    get(id) {
      const found = connectors.get(id);
      if (!found) throw new Error(`There is no app profile "${id}"`);
      return found;
    },
  };
}
