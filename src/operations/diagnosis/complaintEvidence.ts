/** How evidence of a complaint is written down. */
import { type CauseCode, cause, isCauseCode } from '../../core/delivery/causes';
import type { Named, Observed } from '../../core/diagnosis/diagnose';
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
}

export interface Found {
  named: Named[];
  observed: Observed[];
  traffic: boolean;
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
