/** Delivery tests as sentences. */
import { displayAddress } from '../addresses/display';
import { cause, isCauseCode } from '../delivery/causes';
import type { DeliveryTest, Expectation, Stimulus } from './deliveryTest';

/** What things are called. */
export interface TestNames {
  phone(number: string): string;
  channel(id: string): string;
  app(id: string): string;
  route(id: string): string;
  hook(id: string): string;
  system(id: string): string;
  feed(id: string): string;
  record(app: string, record: string): string;
}

export function namesFrom(named: Readonly<Record<string, string>>): TestNames {
  const of = (what: string) => (id: string) => named[id] ?? `${what} that is gone`;
  return {
    phone: (number) => (named[number] ? `${named[number]}’s handset` : displayAddress(number)),
    channel: of('a channel'),
    app: of('an app'),
    route: (id) => (id === '' ? 'no route' : named[id] ? `“${named[id]}”` : 'a route that is gone'),
    hook: (id) => `“${named[id] ?? 'a hook that is gone'}”`,
    system: of('a telephone system'),
    feed: (id) => `“${named[id] ?? 'a feed that is gone'}”`,
    record: (app, record) => named[`${app} ${record}`] ?? record,
  };
}

const CALLS = { missed: 'a missed call', incoming: 'an incoming call', 'voicemail-box': 'a call sent to voicemail' };

export function stimulusWords(stimulus: Stimulus, names: TestNames): string {
  switch (stimulus.kind) {
    case 'text':
      return `${names.phone(stimulus.phone)} writes “${stimulus.text}” to ${names.channel(stimulus.channel)}`;
    case 'order':
      return `${stimulus.app ? names.app(stimulus.app) : 'Windgap'} sends “${stimulus.text}” from ${names.channel(stimulus.channel)} to ${names.phone(stimulus.phone)}`;
    case 'hook':
      return `a record is posted to the send hook ${names.hook(stimulus.hook)}`;
    case 'event':
      return `the calendar of ${names.feed(stimulus.feed)} gets the event “${stimulus.title}” for ${names.phone(stimulus.phone)}`;
    case 'call':
      return `${names.system(stimulus.system)} reports ${CALLS[stimulus.event]} from ${names.phone(stimulus.phone)}`;
  }
}

export function expectationWords(each: Expectation, names: TestNames): string {
  switch (each.expect) {
    case 'arrives': {
      const what =
        each.way === 'anything'
          ? 'a text'
          : each.way === 'is'
            ? `exactly “${each.text}”`
            : `a text containing “${each.text}”`;
      return `${what} arrives at ${names.phone(each.phone)} within ${each.within} s`;
    }
    case 'routed':
      return each.route === '' ? 'no route matches' : `the route ${names.route(each.route)} handles it`;
    case 'told':
      return `${names.app(each.app)} accepts the event within ${each.within} s${each.field ? `, with ${each.field} = “${each.value}”` : ''}`;
    case 'record':
      return `${names.app(each.app)} has one more ${names.record(each.app, each.record)} of ${names.phone(each.phone)} within ${each.within} s`;
    case 'delivered':
      return `its receipt says delivered within ${each.within} s`;
    case 'round-trip':
      return `the reply is back, receipt included, within ${each.within} s`;
    case 'once':
      return `nothing arrives a second time in ${each.during} s`;
    case 'silence':
      return `nothing arrives at ${names.phone(each.phone)} in ${each.during} s`;
    case 'refused':
      return `it is refused${isCauseCode(each.cause) ? `: ${cause(each.cause).title.toLowerCase()}` : ''}`;
  }
}

/** “When …, then …, and …” */
export function testWords({ stimulus, expectations, times, pace }: DeliveryTest, names: TestNames): string {
  const then = expectations.map((each) => expectationWords(each, names)).join(', and ');
  const often = times > 1 ? ` Done ${times} times.` : '';
  const fast = pace ? ` ${pace.percentile} % of the rounds take at most ${pace.withinMs} ms.` : '';
  return `When ${stimulusWords(stimulus, names)}, then ${then}.${often}${fast}`;
}
