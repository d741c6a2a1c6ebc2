/** An order to send, and what it is judged by. */

import type { Choices } from '../../core/delivery/choices';
import type { Media } from '../../core/delivery/media';
import type { PriceLine } from '../../core/limits/prices';
import type { ChannelRow, MessageRow, ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { messageData } from '../apps/webhooks';
import type { Actor, OperationError } from '../context';
import type { TemplateCatalogue, TemplateChoice, TemplateText } from '../templates';
import type { FactRefresh } from './oldFacts';

export interface SendInput {
  /** Any human form; without a country code the channel's country is assumed. */
  to?: string;
  /** Channel id or number to send from. Without it the conversation's channel, else the only one there is. */
  from?: string;
  /** May be empty when a file says it all, or when a template is to be sent. */
  text: string;
  template?: TemplateChoice;
  /** A file by its address, where the provider carries files. */
  media?: Media;
  /** Words to find the message by later. */
  tags?: string[];
  /** The last moment at which it is of use, epoch milliseconds: it is not sent after that. */
  validUntil?: number;
  /** Answers that may be pressed, where the channel shows such; in words elsewhere. */
  choices?: readonly string[];
  /** Of a mail; an answer takes the one it answers, anything else the channel’s. */
  subject?: string;
  /** It tries this very channel: it goes no second way. */
  onlyThisWay?: boolean;
  /** Message this answers; its sender is the recipient unless `to` says otherwise. */
  inReplyTo?: string;
}

export interface SendAnswer {
  status: number;
  message: ReturnType<typeof messageData>;
  /** The answer was given before, to the same idempotency key. */
  replayed: boolean;
}

export interface Order {
  actor: Actor;
  input: SendInput;
  idempotencyKey?: string;
  /** The answer to an opt-out or opt-in word. */
  consent?: true;
  /** It carries a code that is shown to nobody but its recipient. */
  code?: CodeOrder;
  /** Of a test key: the numbers it reaches. */
  only?: ReadonlySet<string>;
  /** It is the second way of this message. */
  insteadOf?: FirstWayOf;
  /** A refusal on old facts is not the last word: the provider is asked, and the order judged again. */
  refresh?: FactRefresh;
}

export interface FirstWayOf {
  message: MessageRow;
  /** Channels it was tried over: it comes back to none. */
  been: readonly string[];
  /** It carries a code. */
  code: boolean;
}

export interface CodeOrder {
  /** The address of the visitor who asked for it. */
  visitor?: string;
  /** Throws what stands against a code to this number. */
  judge(unit: Unit, recipient: string): Promise<void>;
  /** Keeps the code beside its message, in the same unit. */
  keep(unit: Unit, message: MessageRow): Promise<void>;
}

export type Ordered = SendAnswer | OperationError;

export type Sender = (actor: Actor, input: SendInput, idempotencyKey?: string, code?: CodeOrder) => Promise<SendAnswer>;

/** What orders are judged by, read once for all that share a unit. */
export interface SendContext {
  channels: ChannelRow[];
  accounts: Map<string, ProviderAccountRow>;
  numbers: Map<string, ProviderNumberRow>;
  answered: Map<string, MessageRow>;
  catalogue: TemplateCatalogue;
  /** By account. */
  prices: Map<string, readonly PriceLine[]>;
  /** Countries in which the organisation has numbers. */
  home: ReadonlySet<string>;
  /** Of people of whom none is known. */
  language: string | undefined;
  /** Those it reached before countries had to be allowed. */
  before: readonly string[];
}

/** An order that may be placed, before its message has a thread. */
/** What a message says, as its channel carries it. */
export interface Saying extends Omit<TemplateText, 'choices'> {
  choices?: Choices | null;
}

export interface Draft {
  order: Order;
  channel: ChannelRow;
  recipient: string;
  said: Saying;
  /** Of a mail. */
  subject: string | null;
  /** Why it waits for a person before it leaves. */
  held?: string;
}
