/** Faults nobody listed, as data: what is done, what is complained of, and where it is. */

import type { Scope } from '../../src/operations/diagnosis/complaintEvidence';
import type { Answer, DiagnosisView } from '../../src/operations/diagnosis/diagnose';
import type { House } from './house';

const ORDER = {
  out: ['asker', 'windgap', 'provider', 'phone', 'person'],
  in: ['person', 'provider', 'door', 'windgap', 'app', 'screen'],
};

type Symptom = Parameters<typeof import('../../src/operations/diagnosis/diagnose').diagnoseComplaint>[2]['symptom'];

/** The last place that has it and the first that has not; the first is empty where none is known to. */
export type Place = `${string}>${string}`;

export interface Unforeseen {
  name: string;
  symptom: Symptom;
  /** What the complaint is about besides the channel. */
  about?: (house: House) => Partial<Scope>;
  /** Makes it so. */
  begin(house: House): Promise<unknown> | unknown;
  /** What happens while it is so. */
  traffic?(house: House): Promise<unknown>;
  /** Puts it right; what stands between two machines is put right by itself. */
  end?(house: House): Promise<unknown> | unknown;
  /** Where it is; several where the evidence cannot tell more. `well` for a path that is. */
  where: readonly (Place | 'well')[];
  /** Codes that say no more than what is so. */
  causes?: readonly string[];
  /** Which message is meant, when asked; the latest where it is not said. */
  which?: 'none';
  /** What the person knows, when asked. */
  knows?: Record<string, Answer>;
}

export interface Outcome {
  name: string;
  verdict: DiagnosisView['verdict'];
  cause: string;
  /** The likeliest, and its share, whatever the verdict. */
  share: number;
  place: Place;
  where: string;
  outcome: 'right cause' | 'right place' | 'open' | 'leaning wrong' | 'sure and wrong';
}

/** What a verdict is worth, by what was declared. */
export function judge(each: Unforeseen, view: DiagnosisView): Outcome {
  const { verdict, where, cause } = view;
  const { from = '', to = '' } = where.segment;
  const place: Place = `${from}>${to}`;
  const named = verdict === 'determined' || verdict === 'likely' || (verdict === 'between' && cause !== undefined);
  const code = cause?.code ?? '';
  const healthy = each.where.includes('well');
  const saysWell = verdict === 'well' || verdict === 'healed';
  const rightCause = named && (each.causes ?? []).includes(code);
  const rightPlace = !saysWell && (each.where as readonly string[]).includes(place);
  const outcome = (): Outcome['outcome'] => {
    if (healthy)
      return saysWell
        ? 'right place'
        : verdict === 'determined'
          ? 'sure and wrong'
          : verdict === 'likely'
            ? 'leaning wrong'
            : 'open';
    if (rightCause) return 'right cause';
    // Saying that all is well of what is not is as sure and as wrong as can be.
    if (saysWell) return (each.where as readonly string[]).includes(place) ? 'right place' : 'sure and wrong';
    if (verdict === 'determined') return 'sure and wrong';
    if (verdict === 'likely') return rightPlace ? 'right place' : 'leaning wrong';
    if (rightPlace) return 'right place';
    if (each.where.some((one) => one !== 'well' && covers(where.segment, one))) return 'open';
    return where.segment.sure && verdict === 'between' ? 'leaning wrong' : 'open';
  };
  return {
    name: each.name,
    verdict,
    cause: code,
    share: cause?.share ?? view.remaining[0]?.share ?? 0,
    place,
    where: where.said,
    outcome: outcome(),
  };
}

/** A wider part of the way that the place lies in is true, and says less. */
function covers({ way, from, to }: DiagnosisView['where']['segment'], place: Place): boolean {
  const at = (one?: string) => ORDER[way].indexOf(one ?? '');
  const [start, end] = place.split('>') as [string, string];
  return at(start) >= at(from) && at(end) > 0 && at(end) <= at(to);
}
