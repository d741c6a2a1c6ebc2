/** How evidence of a complaint is written down. */
import { type CauseCode, cause, isCauseCode } from '../../core/delivery/causes';
import type { Healed, Named, Observed } from '../../core/diagnosis/diagnose';
import type { ObservationId } from '../../core/diagnosis/observations';
import type { StepResult } from '../../core/steps/run';

/** Nothing older is looked at. */
export const LOOKED_BACK = 86_400_000;

/** What the complaint is about; what is absent does not narrow. */
export interface Scope {
  channel?: string;
  app?: string;
  /** E.164 or what else the person is reached by. */
  phone?: string;
  /** The message that is meant, or `none` where it is not among those that are here. */
  message?: string;
}

/** None of the messages that are here is the one complained of. */
export const NONE_OF_THEM = 'none';

/** What came in so lately shows that the way in is whole now. */
export const JUST_NOW = 15 * 60_000;

/** A receipt takes its time. */
export const RECEIPT_PATIENCE = 45_000;

/** Causes that a receipt gave for one recipient, so that the provider had taken the message. */
export const OF_ONE_PERSON: readonly CauseCode[] = [
  'handset-unreachable',
  'number-not-in-service',
  'message-expired',
  'undelivered-unknown',
  'carrier-refused',
  'mail-bounced',
  'mail-address-unknown',
  'mailbox-full',
];

/** Causes that lie with one person, before or after the provider took the message. */
export const PERSONAL: ReadonlySet<CauseCode> = new Set<CauseCode>([
  ...OF_ONE_PERSON,
  'opted-out',
  'address-malformed',
  'window-closed',
  'may-only-reply',
  'carrier-unknown',
  'trial-unverified',
]);

export function wasTaken(code: CauseCode | null): boolean {
  return code !== null && OF_ONE_PERSON.includes(code);
}

export interface Found {
  named: Named[];
  observed: Observed[];
  traffic: boolean;
  healed?: Healed;
}

export const nothing = (): Found => ({ named: [], observed: [], traffic: false });

export function told(
  code: CauseCode,
  more: Partial<Named> & { who?: string; saying?: string; about?: string } = {},
): Named {
  const { who, saying, about, ...rest } = more;
  return {
    code,
    by: 'told',
    said: cause(code).explain({ who, said: saying, subject: about }),
    remedy: cause(code).remedy,
    ...rest,
  };
}

/** Why a step of a run failed or waits, where the catalogue has it. */
export function causeOf(result: StepResult | undefined): CauseCode | undefined {
  const code = result?.cause ?? result?.finding?.code;
  return isCauseCode(code) ? code : undefined;
}

export const seen = (id: ObservationId, value: boolean, said?: string, href?: string): Observed => ({
  id,
  value,
  from: 'evidence',
  ...(said ? { said } : {}),
  ...(href ? { href } : {}),
});
