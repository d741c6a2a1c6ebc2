/**
 * What a queue of the engine is. Each has a table of its own, whose rows are its items; what all have in common is how
 * items are leased, how failures are counted, and that what cannot be worked through is set aside where a person sees it.
 */
import type { QueueName } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { AppContext, Topic, Work } from '../context';

export interface WorkQueue {
  name: QueueName;
  /** What one of its items is called, in the singular, and all of them on a page. */
  item: string;
  label: string;
  /** Who works on it. */
  work: Work;
  /** How often Windgap may fail at an item before it is set aside. */
  patience: number;
  /** What waits for its turn now. */
  waiting(ctx: AppContext): Promise<Waiting>;
  /** Items as they are shown to people, by id; those that are gone are left out. Reads no document that may be damaged. */
  view(ctx: AppContext, ids: readonly string[]): Promise<ItemView[]>;
  /** Not before `due`; whatever claimed it holds it no longer. */
  tryAgain(unit: Unit, id: string, due: number): Promise<unknown>;
  /** Not at all until somebody decides. */
  setAside(unit: Unit, id: string, at: number, reason: string): Promise<unknown>;
  /** As if it had just come. Returns false where it is no longer set aside. */
  letGo(unit: Unit, id: string, at: number): Promise<boolean>;
  /** Never. Returns false where it is no longer set aside. */
  drop(unit: Unit, id: string, at: number, by: string): Promise<boolean>;
  /** Pages that show such an item look again. */
  topic: Topic;
}

export interface Waiting {
  items: number;
  /** Since when the oldest could have been worked on, epoch milliseconds. */
  since?: number;
}

export interface ItemView {
  id: string;
  /** Such as “Message to +44 …”. */
  title: string;
  /** Its own page, with the evidence. */
  href: string;
  /** What it belongs to: a channel, an app. */
  subject?: { name: string; href: string };
  /** Words of its provider that the profile does not list: once it is said what they mean, it can be read. */
  unlisted?: { what: string; word: string }[];
}
