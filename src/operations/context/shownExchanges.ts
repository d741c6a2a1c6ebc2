/** How requests and answers may be shown: addresses of channels are secrets of their own. */
import type { Exchange } from '../../connectors/connector';
import { maskHeaders } from '../../connectors/http/mask';
import type { ExchangeRow, InboundRequestRow } from '../../store/schema/rows';
import { withoutTokens as hide } from './channelAddresses';

/** A request or answer as it may be shown. */
export interface EvidenceView {
  id: string;
  title: string;
  at: number;
  elapsedMs?: number;
  request: { line: string; headers: Record<string, string>; body: string };
  response?: { line: string; headers: Record<string, string>; body: string };
}

/** `kept` is the body that was sent, where it is kept with what was delivered and not with each attempt. */
export function viewExchange(row: ExchangeRow, kept = ''): EvidenceView {
  const { request, response } = row;
  return hideTokens({
    id: row.id,
    title: row.purpose === 'webhook' ? 'Windgap called the app' : 'Windgap called the provider',
    at: row.at,
    elapsedMs: row.elapsed_ms ?? undefined,
    request: { line: `${request.method} ${request.url}`, headers: request.headers, body: request.body ?? kept },
    response: response
      ? { line: `Status ${response.status}`, headers: response.headers, body: response.body }
      : undefined,
  });
}

export function viewRequest(row: InboundRequestRow): EvidenceView {
  const overTrunk = row.method === 'deliver_sm';
  return hideTokens({
    id: row.id,
    title: overTrunk ? 'The carrier delivered over the trunk' : 'The provider called Windgap',
    at: row.received_at,
    request: {
      line: `${row.method} ${row.path}${row.query ? `?${row.query}` : ''}`,
      headers: maskHeaders(row.headers, []),
      body: overTrunk ? row.body.toString('hex') : row.body.toString('utf8'),
    },
    response: {
      line: overTrunk ? 'Answered after it was stored' : `Status ${row.answer_status}`,
      headers: {},
      body: '',
    },
  });
}

/** Only the readable beginning of a channel's address is shown, wherever it stands. */
function hideTokens(view: EvidenceView): EvidenceView {
  const half = (part: EvidenceView['request']) => ({ ...part, line: hide(part.line), body: hide(part.body) });
  return { ...view, request: half(view.request), response: view.response && half(view.response) };
}

export function hideTokensIn(exchange: Exchange): Exchange {
  const { request, response } = exchange;
  return {
    ...exchange,
    request: { ...request, url: hide(request.url), body: request.body && hide(request.body) },
    response: response && { ...response, body: hide(response.body) },
  };
}
