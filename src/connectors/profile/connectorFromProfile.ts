import type { Connector } from '../connector';
import { httpConnector } from '../http/profileConnector';
import { mailConnector } from '../mail/connector';
import type { Outside } from '../outside/outside';
import { trunkConnector } from '../smpp/connector';
import type { Profile } from './schema';

/** Makes a connector out of a profile of any kind. */
export function connectorFromProfile(profile: Profile, outside: Outside): Connector {
  switch (profile.kind) {
    case 'sms-trunk':
      return trunkConnector(profile, outside);
    case 'email-gateway':
      return mailConnector(profile, outside);
    default:
      return httpConnector(profile, outside.http, outside.clock);
  }
}
