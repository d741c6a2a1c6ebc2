import type { Connector } from '../connector';
import { httpConnector } from '../http/profileConnector';
import { mailConnector } from '../mail/connector';
import { mailboxConnector } from '../mail/mailbox';
import type { Outside } from '../outside/outside';
import { trunkConnector } from '../smpp/connector';
import type { Profile } from './schema';

type Maker<Kind extends Profile['kind']> = (profile: Extract<Profile, { kind: Kind }>, outside: Outside) => Connector;

const MAKERS: { [Kind in Profile['kind']]: Maker<Kind> } = {
  'sms-http': (profile, { http, clock }) => httpConnector(profile, http, clock),
  'business-chat': (profile, { http, clock }) => httpConnector(profile, http, clock),
  'platform-chat': (profile, { http, clock }) => httpConnector(profile, http, clock),
  'sms-trunk': trunkConnector,
  'email-gateway': mailConnector,
  mailbox: mailboxConnector,
};

/** Makes a connector out of a profile of any kind. */
export function connectorFromProfile(profile: Profile, outside: Outside): Connector {
  return (MAKERS[profile.kind] as Maker<Profile['kind']>)(profile, outside);
}
