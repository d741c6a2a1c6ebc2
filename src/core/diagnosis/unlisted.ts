/** The cause that nobody listed: one for each stage of the way. */
import { OBSERVATIONS, type ObservationId, observation } from './observations';
import { BETWEEN, POSSIBILITIES, type Possibility, STAGES, type Stage } from './possibilities';
import { FITTED } from './shares';
import { SYMPTOMS, type Symptom } from './symptoms';

/** How likely it is that the cause at a stage is one nobody listed, against those that are listed there. */
const UNLISTED = 0.15;
/** However few are listed at a stage. */
const UNLISTED_LEAST = 0.1;
/** How far what is unlisted does what the listed ones of its stage do; otherwise it does what is usual. */
const LIKE_ITS_STAGE = 0.7;

function unlistedAt(symptom: Symptom, stage: Stage): Possibility[] {
  const listed = POSSIBILITIES.filter((each) => each.stage === stage && each.behind[symptom]);
  // As set by hand: what was learnt of the listed ones says nothing of the others, which are fitted by themselves.
  const shareOf = ({ behind, line }: Possibility) => (behind[symptom] ?? 0) / (FITTED[line]?.[symptom] ?? 1);
  const total = listed.reduce((sum, each) => sum + shareOf(each), 0);
  if (total === 0) return [];
  const signs: Possibility['signs'] = {};
  for (const id of Object.keys(OBSERVATIONS) as ObservationId[]) {
    const { usually } = observation(id);
    const mean = listed.reduce((sum, each) => sum + shareOf(each) * (each.signs[id] ?? usually), 0) / total;
    if (listed.some(({ signs: own }) => own[id] !== undefined))
      signs[id] = LIKE_ITS_STAGE * mean + (1 - LIKE_ITS_STAGE) * usually;
  }
  const between = BETWEEN[stage];
  return [
    {
      code: codeAt(stage),
      stage,
      line: codeAt(stage),
      behind: { [symptom]: (UNLISTED * total + UNLISTED_LEAST) * (FITTED[codeAt(stage)]?.[symptom] ?? 1) },
      setUp: [0, 0],
      told: [0, 0],
      signs,
      shows: {},
      ...(between ? { between } : {}),
    },
  ];
}

function codeAt(stage: Stage): string {
  return `unlisted-${stage}`;
}

/** Whether a code stands for what nobody listed. */
export const isUnlisted = (code: string): boolean => code.startsWith('unlisted-');

const UNLISTED_BY_SYMPTOM = Object.fromEntries(
  (Object.keys(SYMPTOMS) as Symptom[]).map((symptom) => [
    symptom,
    STAGES.flatMap((stage) => unlistedAt(symptom, stage)),
  ]),
) as Record<Symptom, Possibility[]>;

/**
 * The cause nobody listed, once for each stage that has causes of the symptom: it does to each observation what the
 * listed ones of the stage do on average, only less surely. So what remains by elimination is never certain.
 */
export function unlistedFor(symptom: Symptom): Possibility[] {
  return UNLISTED_BY_SYMPTOM[symptom];
}
