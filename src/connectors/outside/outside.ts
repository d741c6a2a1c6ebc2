/** What connectors reach the outside with: HTTP, connections of other kinds, and the clock. */
import type { Clock } from '../../clock/clock';
import { createOutboundHttp, type OutboundHttp } from '../http/outbound';
import { type Network, networkOf } from './network';

export interface Outside {
  http: OutboundHttp;
  network: Network;
  clock: Clock;
}

export function outsideOf({
  allowPrivate,
  nameServers = [],
  clock,
}: {
  allowPrivate: boolean;
  nameServers?: readonly string[];
  clock: Clock;
}): Outside {
  const network = networkOf({ allowPrivate, nameServers });
  return { http: createOutboundHttp(network, clock), network, clock };
}
