/** The shape of a cause: why something failed, in plain words, and the remedy. */
import type { HopName } from '../proof/hops';

export interface CauseContext {
  /** Who refused or failed, by the name the administrator gave it. */
  who?: string;
  /** The provider's or application's own words. */
  said?: string;
  /** What it was about: an address, a country, a field. */
  subject?: string;
}

export interface Cause {
  /** The problem in one sentence without a full stop. */
  title: string;
  explain: (context: CauseContext) => string;
  remedy: string;
  /** True when the same request may succeed later without anybody changing anything. */
  transient: boolean;
  /** What it waits for comes back by itself once a day, so that trying goes on for longer. */
  renewsDaily?: true;
  /** The hop of the set-up that this shows to be broken; absent when only this message is at fault. */
  breaks?: HopName;
}
export const by = (context: CauseContext, fallback: string) => context.who ?? fallback;
