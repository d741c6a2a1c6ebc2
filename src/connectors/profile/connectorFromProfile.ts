import type { Clock } from '../../clock/clock';
import type { Connector } from '../connector';
import type { OutboundHttp } from '../http/outbound';
import { httpConnector } from '../http/profileConnector';
import { mailConnector } from '../mail/connector';
import { trunkConnector } from '../smpp/connector';
import type { Profile } from './schema';

/** Makes a connector out of a profile of any kind. */
export function connectorFromProfile(profile: Profile, http: OutboundHttp, clock: Clock): Connector {
  switch (profile.kind) {
    case 'sms-trunk':
      return trunkConnector(profile, clock);
    case 'email-gateway':
      return mailConnector(profile, http, clock);
    default:
      return httpConnector(profile, http, clock);
  }
}
