/** Towpath Records, the simulated customer database: people by mobile number, strict about what it is given. */
import { randomUUID } from 'node:crypto';
import { stamp } from '../clock';

export interface TowpathToken {
  token: string;
  /** `read` or `write`. */
  may: 'read' | 'write';
  ended: boolean;
}

export interface Person {
  id: string;
  full_name: string;
  mobile: string;
  last_message?: string;
  source?: string;
  /** Whose customer it is. */
  keeper?: string;
  changed: string;
}

export interface Lead {
  id: string;
  full_name: string;
  mobile: string;
  wants: string;
  once?: string;
}

export interface TowpathSettings {
  tokens: TowpathToken[];
  people: Person[];
  leads: Lead[];
}

export interface TowpathFaults {
  down: boolean;
  slow: boolean;
  tokenEnded: boolean;
  answers500: boolean;
}

export type Refusal = { status: number; error: string; message: string };

const FIELDS: Record<string, number> = { full_name: 80, mobile: 20, last_message: 200, source: 60 };

export class Towpath {
  faults: TowpathFaults = { down: false, slow: false, tokenEnded: false, answers500: false };

  constructor(readonly settings: TowpathSettings) {}

  byMobile(mobile: string): Person[] {
    return this.settings.people.filter((person) => person.mobile === mobile);
  }

  /** Adds a person, or says why not. */
  add(given: Record<string, unknown>): Person | Refusal {
    const refusal = this.judge(given, true);
    if (refusal) return refusal;
    if (this.byMobile(String(given.mobile)).length > 0)
      return { status: 409, error: 'mobile_taken', message: `Somebody has ${given.mobile} already` };
    const person = { ...given, id: `p-${randomUUID().slice(0, 8)}`, changed: stamp() } as Person;
    this.settings.people.push(person);
    return person;
  }

  change(id: string, given: Record<string, unknown>): Person | Refusal {
    const person = this.settings.people.find((entry) => entry.id === id);
    if (!person) return { status: 404, error: 'person_unknown', message: `There is nobody with the id ${id}` };
    return this.judge(given, false) ?? Object.assign(person, given, { changed: stamp() });
  }

  /** Somebody who may become a customer; the same reference makes one lead. */
  addLead(given: Record<string, unknown>, once: string | undefined): Lead | Refusal {
    const before = once && this.settings.leads.find((lead) => lead.once === once);
    if (before) return before;
    for (const name of ['full_name', 'mobile', 'wants'])
      if (typeof given[name] !== 'string' || !given[name])
        return { status: 422, error: 'lead_invalid', message: `${name} is needed` };
    const lead = { ...given, id: `l-${randomUUID().slice(0, 8)}`, once } as Lead;
    this.settings.leads.push(lead);
    return lead;
  }

  private judge(given: Record<string, unknown>, whole: boolean): Refusal | undefined {
    const refuse = (message: string): Refusal => ({ status: 422, error: 'person_invalid', message });
    for (const [name, value] of Object.entries(given)) {
      const longest = Object.hasOwn(FIELDS, name) ? FIELDS[name] : undefined;
      if (longest === undefined) return refuse(`A person has no field ${name}`);
      if (typeof value !== 'string' || value.length > longest) return refuse(`${name} is a text of at most ${longest}`);
    }
    if (whole && !given.full_name) return refuse('full_name is needed');
    if ((whole || given.mobile !== undefined) && !/^\+\d{7,15}$/.test(String(given.mobile ?? '')))
      return refuse('mobile is + and 7 to 15 digits');
    return undefined;
  }
}
