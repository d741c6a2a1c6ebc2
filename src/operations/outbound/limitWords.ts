/** What is said of a text that a limit stopped or held. */
import { cause } from '../../core/delivery/causes';
import { limitNamed, type Stop } from '../../core/limits/limits';
import { amountWords, placeWords } from '../../core/limits/wording';
import { OperationError } from '../context';

/** A limit as a refusal: too often, with what is reached and for what. */
export function limitRefusal({ limit, subject, most }: Stop): OperationError {
  const { explain, remedy } = cause('limit-reached');
  const { by, words } = limitNamed(limit);
  const said = `${amountWords(limit, most, subject)} ${words}`;
  const problem = explain({ said, subject: placeWords(by, subject) ?? (by === 'app' ? 'this app' : undefined) });
  return new OperationError('too-often', problem, [
    { field: 'to', finding: { code: 'limit-reached', severity: 'error', problem, remedy } },
  ]);
}

export function wordsOfRise({ limit, subject, hour }: Stop & { hour: number }, who: string): string {
  const said = `${hour} texts in an hour`;
  return cause('rise-held').explain({ said, subject: placeWords(limitNamed(limit).by, subject), who });
}
