/** Makes a connector to an app's records out of its profile. */
import type { Clock } from '../../clock/clock';
import type { Finding } from '../../core/finding';
import type { RecordType, RecordWay } from '../../core/records/recordType';
import type { CredentialField, Credentials, Outcome } from '../connector';
import { createCall } from '../http/call';
import { examineCredentials } from '../http/examine';
import { nodes } from '../http/jsonPath';
import type { OutboundHttp } from '../http/outbound';
import { optional, required, wholeNumber } from '../http/read';
import { credentialFields } from '../profile/common';
import type { RequestPlan } from '../profile/pieces';
import type { AppProfile } from './schema';

export interface FoundRecord {
  id: string;
  title?: string;
  /** Where people see it in the app. */
  url?: string;
  /** An e-mail address or a name. */
  owner?: string;
}

export type RecordValues = Record<string, string>;

export interface AppConnector {
  id: string;
  name: string;
  summary: string;
  preconditions: { text: string; help?: string }[];
  credentialFields: CredentialField[];
  examineCredentials(credentials: Credentials): { field: string; finding: Finding }[];
  records: RecordType[];
  check(credentials: Credentials): Promise<Outcome<{ name?: string }>>;
  /** The record of a phone in E.164, or undefined when there is none. */
  find(credentials: Credentials, record: string, phone: string): Promise<Outcome<FoundRecord | undefined>>;
  create(
    credentials: Credentials,
    record: string,
    values: RecordValues,
    reference: string,
  ): Promise<Outcome<FoundRecord>>;
  update(credentials: Credentials, record: string, id: string, values: RecordValues): Promise<Outcome<null>>;
  countOpen(credentials: Credentials, record: string, phone: string): Promise<Outcome<number>>;
}

export function appConnector(profile: AppProfile, http: OutboundHttp, clock: Clock): AppConnector {
  const fields = credentialFields(profile);
  const call = createCall({ http: profile.http, errors: profile.errors, fields }, http, clock);
  const part = <Name extends 'find' | 'create' | 'update' | 'count'>(record: string, name: Name) => {
    const found = profile.records[record]?.[name];
    if (!found) throw new Error(`The profile of ${profile.name} cannot ${name} a ${record}`);
    return found as NonNullable<AppProfile['records'][string][Name]>;
  };
  return {
    id: profile.id,
    name: profile.name,
    summary: profile.summary,
    preconditions: profile.preconditions.map((entry) => (typeof entry === 'string' ? { text: entry } : entry)),
    credentialFields: fields,
    examineCredentials: (credentials) => examineCredentials(fields, credentials),
    records: Object.entries(profile.records).map(([id, record]) => recordType(id, record)),
    check: (credentials) =>
      call(credentials, profile.check.request, {}, (answer) => ({ name: optional(answer, profile.check.name) })),
    find(credentials, record, phone) {
      const { request, each, id, title, url, owner } = part(record, 'find');
      return call(credentials, request, { phone }, (answer) => {
        const [entry] = nodes(answer, each);
        if (entry === undefined) return undefined;
        return {
          id: required(entry, id),
          title: optional(entry, title),
          url: optional(entry, url),
          owner: optional(entry, owner),
        };
      });
    },
    create(credentials, record, values, reference) {
      const { request, into, id, url } = part(record, 'create');
      return call(credentials, withData(request, into, values), { reference }, (answer) => ({
        id: required(answer, id),
        url: optional(answer, url),
      }));
    },
    update(credentials, record, id, values) {
      const { request, into } = part(record, 'update');
      const own = new Set(profile.records[record]?.fields.flatMap(({ name, onlyNew }) => (onlyNew ? name : [])));
      const changed = Object.fromEntries(Object.entries(values).filter(([name]) => !own.has(name)));
      return call(credentials, withData(request, into, changed), { id }, () => null);
    },
    countOpen(credentials, record, phone) {
      const { request, open } = part(record, 'count');
      return call(credentials, request, { phone }, (answer) => {
        const count = wholeNumber(answer, open);
        if (count === undefined) throw new Error(`nothing at ${open}`);
        return count;
      });
    },
  };
}

function recordType(id: string, record: AppProfile['records'][string]): RecordType {
  const { find, create, update, count } = record;
  const ways: RecordWay[] = [];
  if (find && create && update) ways.push('upsert');
  if (create) ways.push('create');
  if (create && count) ways.push('create-if-none');
  return {
    id,
    label: record.label,
    fields: record.fields,
    ways,
    countable: count !== undefined,
    findable: find !== undefined,
    honoursReference: create?.honoursReference ?? false,
  };
}

function withData(request: RequestPlan, into: readonly string[], values: RecordValues) {
  const data = into.reduceRight<unknown>((inner, name) => ({ [name]: inner }), values);
  return { ...request, data };
}
