/** What is known of a message when it is decided where it goes. All that a condition may look at is here. */
import { plainWords } from './keyword';

export type ConversationState = 'new' | 'open' | 'waiting' | 'closed';

export interface Arrival {
  text: string;
  channel: string;
  /** Epoch milliseconds. */
  at: number;
  /** Whether they were a contact before this message. */
  known: boolean;
  tags: readonly string[];
  attributes: Readonly<Record<string, string>>;
  /** BCP 47. */
  language?: string;
  media: boolean;
  conversation: ConversationState;
  /** Id of the template the message answers. */
  answers?: string;
  /** Label of the quick reply that was pressed. */
  button?: string;
  /** Open records by `app record`; `failed` when the app did not say, absent while nobody has asked. */
  open: Readonly<Record<string, number | 'failed'>>;
}

/** An arrival with its words ready to be compared. */
export interface Prepared extends Arrival {
  /** The words with one space before, between and after them. */
  spoken: string;
}

export function prepare(arrival: Arrival): Prepared {
  return { ...arrival, spoken: ` ${plainWords(arrival.text)} ` };
}
