/** A complaint as it stands in the address of its page. */
import { isObservation } from '../../../../core/diagnosis/observations';
import { isSymptom } from '../../../../core/diagnosis/symptoms';
import type { Answer, Complaint, Scope } from '../../../../operations/diagnosis';

export type Query = Record<string, string | string[] | undefined>;

const one = (value: string | string[] | undefined) => (Array.isArray(value) ? value[0] : value) || undefined;

export function scopeOf(query: Query): Scope {
  return {
    channel: one(query.channel),
    app: one(query.app),
    phone: one(query.phone)?.replace(/[^\d+]/g, ''),
    message: one(query.message),
  };
}

/** The complaint of an address; undefined where nothing is complained of yet. */
export function complaintOf(query: Query): Complaint | undefined {
  const symptom = one(query.symptom);
  return isSymptom(symptom) ? { symptom, scope: scopeOf(query), answers: answersOf(query.a) } : undefined;
}

function answersOf(value: string | string[] | undefined): Record<string, Answer> {
  const given = Array.isArray(value) ? value : value ? [value] : [];
  return Object.fromEntries(
    given.flatMap((entry): [string, Answer][] => {
      const [id = '', answer = ''] = entry.split(':');
      return isObservation(id) && ['yes', 'no', 'unknown'].includes(answer) ? [[id, answer as Answer]] : [];
    }),
  );
}

export function addressOf(query: Query): string {
  const search = new URLSearchParams();
  for (const [name, value] of Object.entries(query))
    for (const each of Array.isArray(value) ? value : [value]) if (each) search.append(name, each);
  return `/prove/diagnosis?${search}`;
}

/** The query of an address, as pages get it. */
export function queryOf(search: URLSearchParams): Query {
  return Object.fromEntries([...new Set(search.keys())].map((name) => [name, search.getAll(name)]));
}
