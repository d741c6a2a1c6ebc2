import type { Exchange, Outcome } from '../../connectors/connector';
import type { CauseCode } from '../../core/delivery/causes';
import { newId } from '../../store/ids';
import type { ExchangeRow } from '../../store/schema/rows';

/** The row that keeps one exchange as evidence. */
export function exchangeRow(
  purpose: ExchangeRow['purpose'],
  subject: string,
  exchange: Exchange,
  cause?: CauseCode,
): ExchangeRow {
  return {
    id: newId('exc', exchange.at),
    purpose,
    subject_id: subject,
    at: exchange.at,
    elapsed_ms: exchange.elapsedMs,
    request: exchange.request,
    response: exchange.response,
    cause: cause ?? null,
  };
}

/** The rows of an outcome: the exchange that decided first, then what was asked beside it. */
export function exchangeRows(
  purpose: ExchangeRow['purpose'],
  subject: string,
  outcome: Outcome<unknown>,
): ExchangeRow[] {
  const failedWith = outcome.ok ? undefined : outcome.failure.cause;
  return [
    ...(outcome.exchange ? [exchangeRow(purpose, subject, outcome.exchange, failedWith)] : []),
    ...(outcome.also ?? []).map((exchange) => exchangeRow(purpose, subject, exchange)),
  ];
}
