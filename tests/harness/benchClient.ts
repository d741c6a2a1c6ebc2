/** Speaks to the bench's control address. */
import type { Population } from '../../standins/population';

export interface ProviderText {
  id: string;
  direction: 'in' | 'out';
  from: string;
  to: string;
  text: string;
  state: string;
  reference?: string;
}

export interface CarrierText {
  number: number;
  from: string;
  to: string;
  text: string;
  /** Epoch milliseconds at the carrier. */
  at: number;
  state: string;
}

export interface LockbookRecord {
  settings: { secret: string; apiKey: string; apiUrl: string };
  events: {
    id: string;
    verified: boolean;
    problem?: string;
    type?: string;
    message?: { id: string; text: string; media: object | null; state: string; from: string };
  }[];
  calls: { status: number | string; answer: string; what: string }[];
}

interface HandsetEntry {
  direction: 'received' | 'sent';
  way: 'text' | 'chat' | 'mail' | 'talk';
  peer: string;
  text: string;
  file?: { address: string; type: string };
  encoding: string;
  parts: number;
  at: string;
}

export class BenchClient {
  constructor(private readonly url: string) {}

  async type(
    number: string,
    to: string,
    text: string,
    way: 'text' | 'chat' | 'mail' | 'talk' = 'text',
    picture = false,
  ): Promise<void> {
    const answer = await this.call('POST', `/handsets/${encodeURIComponent(number)}/texts`, { to, text, way, picture });
    if (answer.status !== 202) throw new Error(`The handset refused: ${answer.status}`);
  }

  /** All it shows that somebody sent it, up to the 2,000 it keeps. */
  async received(number: string): Promise<HandsetEntry[]> {
    const answer = await this.call('GET', `/received?numbers=${encodeURIComponent(number)}`);
    return ((await answer.json()) as Record<string, HandsetEntry[]>)[number] ?? [];
  }

  async setHandset(
    number: string,
    settings: { power?: 'on' | 'off'; delayMs?: number; answersWith?: string; away?: string },
  ): Promise<void> {
    await this.call('PATCH', `/handsets/${encodeURIComponent(number)}`, settings);
  }

  async addHandset(number: string, owner = 'Somebody', country = 'GB'): Promise<void> {
    await this.call('POST', '/handsets', { number, owner, country });
  }

  /** As many handsets as are wanted, from a number on: nothing is kept of what they show. */
  async addPopulation(population: Partial<Population> & Pick<Population, 'from' | 'count'>): Promise<void> {
    await this.call('POST', '/populations', { country: 'GB', delayMs: 20, off: 0, answers: [], ...population });
  }

  async faults(wanted: Record<string, Record<string, boolean | number>>): Promise<void> {
    await this.call('PATCH', '/faults', wanted);
  }

  async lockbook(
    settings?: Partial<LockbookRecord['settings']> & { confirmsByItself?: boolean },
  ): Promise<LockbookRecord> {
    if (settings) await this.call('PATCH', '/lockbook', settings);
    return (await (await this.call('GET', '/lockbook')).json()) as LockbookRecord;
  }

  /** Moves on what time it is for the installation and its outside. */
  async moveClock(ms: number): Promise<void> {
    const answer = await this.call('POST', '/clock', { by: ms });
    if (!answer.ok) throw new Error(`The clock was not moved: ${answer.status}`);
  }

  /** How much the outside has begun and not ended. */
  async underWay(): Promise<number> {
    return ((await (await this.call('GET', '/under-way')).json()) as { count: number }).count;
  }

  async texts(): Promise<ProviderText[]> {
    return (await (await this.call('GET', '/brackwater/texts')).json()) as ProviderText[];
  }

  /** What Brackwater posted in vain as often as it tries. */
  async givenUp(): Promise<{ body: object; answers: (number | string)[] }[]> {
    return (await (await this.call('GET', '/brackwater/given-up')).json()) as never;
  }

  async ostrelTexts(): Promise<CarrierText[]> {
    return (await (await this.call('GET', '/ostrel/texts')).json()) as CarrierText[];
  }

  /** Changes what a stand-in has about a login, business or account, as somebody in its console would. */
  async change(what: string, settings: object): Promise<void> {
    const answer = await this.call('PATCH', `/${what}`, settings);
    if (!answer.ok) throw new Error(`The bench has no ${what}`);
  }

  /** Everything a stand-in has, as its console would show it. */
  async read<Content>(path: string): Promise<Content> {
    return (await (await this.call('GET', path)).json()) as Content;
  }

  async post(path: string, body?: object): Promise<void> {
    await this.call('POST', path, body);
  }

  async account(id: string, settings: Record<string, unknown>): Promise<void> {
    await this.call('PATCH', `/brackwater/accounts/${id}`, settings);
  }

  private call(method: string, path: string, body?: object): Promise<Response> {
    return fetch(this.url + path, { method, body: body && JSON.stringify(body) });
  }
}
