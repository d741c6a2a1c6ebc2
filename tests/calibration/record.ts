/** Keeps what was known of each case when it was judged, for fitting and scoring shares: a line of JSON each, where a file is named. */
import { appendFileSync } from 'node:fs';
import type { Evidence } from '../../src/core/diagnosis/diagnose';
import type { Symptom } from '../../src/core/diagnosis/symptoms';
import { SYSTEM } from '../../src/operations/context/actor';
import { evidenceOf } from '../../src/operations/diagnosis/diagnose';
import type { Installation } from '../harness/processes';

export interface RecordedCase {
  name: string;
  symptom: Symptom;
  /** Codes that are right; none where no listed cause is. */
  causes: readonly string[];
  /** Where it is, such as `provider>door`; `well` where nothing is wrong. */
  where: readonly string[];
  evidence: Evidence;
}

/** `complaint`: as it stood when there was a verdict. */
export async function record(
  { ctx }: Installation,
  complaint: Parameters<typeof evidenceOf>[2],
  { name, causes, where }: Pick<RecordedCase, 'name' | 'causes' | 'where'>,
): Promise<void> {
  const file = process.env.WINDGAP_KEEP_CASES;
  if (!file) return;
  const evidence = lean(await evidenceOf(ctx, SYSTEM, complaint));
  const line: RecordedCase = { name, symptom: complaint.symptom, causes, where, evidence };
  appendFileSync(file, `${JSON.stringify(line)}\n`);
}

/** Without words, addresses and ids: they weigh nothing. */
function lean({ named, observed, healed, segment, ...rest }: Evidence): Evidence {
  return {
    ...rest,
    named: named.map(({ code, by, stands, own, ofOne, ofOthers, doubt }) => ({
      code,
      by,
      said: '',
      ...(stands ? { stands } : {}),
      ...(own ? { own } : {}),
      ...(ofOne ? { ofOne } : {}),
      ...(ofOthers ? { ofOthers } : {}),
      ...(doubt ? { doubt: 'doubted' } : {}),
    })),
    observed: observed.map(({ id, value, from }) => ({ id, value, from })),
    ...(segment ? { segment } : {}),
    ...(healed
      ? { healed: { from: 0, until: 0, wellSince: 0, codes: healed.codes, lost: [], kind: healed.kind } }
      : {}),
  };
}
