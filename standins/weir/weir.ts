/** Weir Desk, the simulated ticket desk. The same reference makes one ticket only. */
import { stamp } from '../clock';

export interface Ticket {
  number: number;
  subject: string;
  body: string;
  requester: string;
  origin?: string;
  priority: string;
  state: 'open' | 'closed';
  once?: string;
  at: string;
}

export interface WeirSettings {
  desk: string;
  title: string;
  key: string;
  tickets: Ticket[];
}

export interface WeirFaults {
  down: boolean;
  answers500: boolean;
  /** Makes the ticket and then says nothing. */
  takesAndHangs: boolean;
}

const LONGEST: Record<string, number> = { subject: 60, body: 2000, requester: 20, origin: 60, priority: 10 };

export class WeirDesk {
  faults: WeirFaults = { down: false, answers500: false, takesAndHangs: false };

  constructor(readonly settings: WeirSettings) {}

  /** The ticket made, the one made before for this reference, or what is wrong. */
  open(given: Record<string, unknown>, once: string | undefined): { ticket: Ticket; fresh: boolean } | string {
    const before = once && this.settings.tickets.find((ticket) => ticket.once === once);
    if (before) return { ticket: before, fresh: false };
    for (const [name, value] of Object.entries(given)) {
      const longest = Object.hasOwn(LONGEST, name) ? LONGEST[name] : undefined;
      if (longest === undefined) return `a ticket has no ${name}`;
      if (typeof value !== 'string' || value.length > longest) return `${name} is a text of at most ${longest}`;
    }
    for (const name of ['subject', 'body', 'requester']) if (!given[name]) return `${name} is missing`;
    if (given.priority && !['low', 'normal', 'high'].includes(String(given.priority)))
      return 'priority is low, normal or high';
    const ticket = {
      priority: 'normal',
      ...given,
      number: 4100 + this.settings.tickets.length,
      state: 'open',
      once,
      at: stamp(),
    } as Ticket;
    this.settings.tickets.push(ticket);
    return { ticket, fresh: true };
  }

  tally(requester: string, state: string): number {
    return this.settings.tickets.filter((ticket) => ticket.requester === requester && ticket.state === state).length;
  }
}
