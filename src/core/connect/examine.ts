/**
 * Examines a connection by what the provider says of it: everything that is known to go
 * wrong before a message is lost. Pure: facts in, findings out, each with its remedy.
 */
import { displayAddress } from '../addresses/display';
import { type CauseCode, cause } from '../delivery/causes';
import type { Finding, Severity } from '../finding';
import type { HopName } from '../proof/hops';
import type { ChannelKind } from './channelKinds';
import { type AccountFacts, isAnswered, type NumberFacts, type Requirements } from './facts';
import { missingRegistration } from './predict';

const AND = new Intl.ListFormat('en');

export interface ConnectionFacts {
  now: number;
  account: {
    id: string;
    name: string;
    connectorName: string;
    facts: AccountFacts;
    requires: Requirements;
    challenges: boolean;
    inboundBelongsTo: 'number' | 'account';
    inboundMethod: 'POST' | 'GET';
    canSetAddress: boolean;
    disabled: boolean;
    /** A request through the public address came back whole when it was last tried. */
    doorOpen: boolean;
    /** Where its profile would send its credentials by now, when that is not where they were given for. */
    leadsTo?: readonly string[];
  };
  channels: ConnectedChannel[];
  /** Every number the provider lists, channels or not, with the address it calls for each. */
  numbers: { address: string; inboundUrl?: string; fallback?: string }[];
}

export interface ConnectedChannel {
  id: string;
  name: string;
  kind: ChannelKind;
  address: string;
  addressKind: string;
  abilities: readonly string[];
  facts: NumberFacts;
  inboundUrl: string;
  fallbackUrl: string;
  /** What the provider has as this number's address; undefined where it does not tell. */
  remote?: { url?: string; method?: string; fallback?: string };
  handedOver: boolean;
  /** The provider’s posts have been taken within the last day. */
  postedLately: boolean;
  /** People whose opt-out the provider kept to itself lately. */
  optOutsKept: number;
  challengedAt?: number;
}

/** What a button beside the finding can do about it. */
export type RemedyAction = 'set-address' | 'subscribe' | 'end-test-mode' | 'check-account' | 'enable-account';

export interface ConnectionFinding extends Finding {
  /** Account or channel id. */
  subject: string;
  /** The hop it endangers. */
  hop?: HopName;
  /** Which of several of one code it is: a country. */
  about?: string;
  action?: RemedyAction;
}

const DAY = 86_400_000;
const EXPIRY_WARNING = 14 * DAY;

export function examineConnection(connection: ConnectionFacts): ConnectionFinding[] {
  return [
    ...examineAccount(connection),
    ...connection.channels.flatMap((channel) => examineChannel(connection, channel)),
  ];
}

function findingsOn(subject: string) {
  const found: ConnectionFinding[] = [];
  const say = (
    code: string,
    severity: Severity,
    problem: string,
    remedy: string,
    more: Partial<ConnectionFinding> = {},
  ) => found.push({ subject, code, severity, problem, remedy, ...more });
  return { found, say };
}

function examineAccount({ now, account, channels }: ConnectionFacts): ConnectionFinding[] {
  const { facts, requires, connectorName } = account;
  const { found, say } = findingsOn(account.id);
  const known = (code: CauseCode, severity: Severity, more: Partial<ConnectionFinding> = {}) =>
    say(code, severity, `${cause(code).title}.`, cause(code).remedy, more);

  if (account.leadsTo)
    say(
      'credentials-elsewhere',
      'error',
      `Its profile was changed and would use its credentials elsewhere, so nothing is sent: ${account.leadsTo.join(', ')}.`,
      'If that is right, replace the credentials and switch the account on; else put the profile back.',
      { hop: 'credential' },
    );
  if (account.disabled) known('account-disabled', 'attention', { hop: 'outbound', action: 'enable-account' });
  if (facts.expiresAt !== undefined) {
    const left = facts.expiresAt - now;
    if (left <= 0) known('credential-expired', 'error', { hop: 'credential', action: 'check-account' });
    else if (left < EXPIRY_WARNING) {
      const days = Math.floor(left / DAY);
      const when = days === 0 ? 'within a day' : `in ${days} ${days === 1 ? 'day' : 'days'}`;
      say(
        'credential-expires',
        days < 3 ? 'error' : 'attention',
        `The credential expires ${when}.`,
        `Make a new one in ${connectorName}’s console and save it under “Replace credentials”; both work while the old one lasts.`,
        { hop: 'credential' },
      );
    }
  }
  const lacking = requires.permissions.filter(
    (permission) => facts.permissions && !facts.permissions.includes(permission),
  );
  if (lacking.length > 0) {
    say(
      'credential-lacks-permission',
      'error',
      `The token lacks the ${lacking.length === 1 ? 'permission' : 'permissions'} ${lacking.join(', ')}.`,
      cause('credential-lacks-permission').remedy,
      { hop: 'credential', action: 'check-account' },
    );
  }
  const silent = requires.subscriptions.filter((event) => facts.subscriptions && !facts.subscriptions.includes(event));
  if (silent.length > 0) {
    const verified = facts.callback?.verified ? 'The address is verified, but not' : 'Not';
    const which = `the ${silent.length === 1 ? 'event' : 'events'} ${AND.format(silent)}`;
    const all = silent.length === requires.subscriptions.length;
    say(
      'events-not-subscribed',
      'error',
      `${verified} subscribed to ${which}, so ${all ? 'nothing arrives' : 'these do not arrive'}.`,
      `Subscribe to ${silent.length === 1 ? 'this event' : 'these events'} with the button, or in ${connectorName}’s console.`,
      { hop: 'inbound', action: 'subscribe' },
    );
  }
  if (account.challenges && facts.callback && !facts.callback.verified) {
    say(
      'callback-unverified',
      'error',
      facts.callback.url
        ? `${connectorName} has an address and has not verified it.`
        : `${connectorName} has no address to post to.`,
      `Hand the inbound URL and the verification word over; ${connectorName} calls the URL once to verify it.`,
      { hop: 'inbound' },
    );
  }
  if (facts.mode === 'development') known('mode-development', 'error', { hop: 'outbound' });
  if (facts.payment === 'missing') known('payment-missing', 'error', { hop: 'outbound' });
  if (facts.trial) {
    const count = facts.verifiedPhones?.length ?? 0;
    say(
      'account-on-trial',
      'attention',
      `The account is on trial: it reaches ${count === 0 ? 'nobody' : `only ${count} verified ${count === 1 ? 'phone' : 'phones'}`}.`,
      'Verify phones by code below, or end the trial at the provider.',
      { hop: 'outbound' },
    );
  }
  if (facts.balance && facts.balance.micros <= 0) known('credit-gone', 'error', { hop: 'outbound' });
  for (const country of requires.registrationCountries) {
    const missing = missingRegistration(facts, requires, country);
    if (!missing || channels.length === 0) continue;
    say(
      'registration-missing',
      'attention',
      `Texts to ${country} will be refused: ${missing}.`,
      'Register the brand and the campaign use below, and wait for approval.',
      { about: country, hop: 'outbound' },
    );
  }
  return found;
}

function examineChannel(connection: ConnectionFacts, channel: ConnectedChannel): ConnectionFinding[] {
  const { account, numbers } = connection;
  const { facts, remote } = channel;
  const { found, say } = findingsOn(channel.id);
  const action: RemedyAction | undefined = account.canSetAddress ? 'set-address' : undefined;

  const receives = isAnswered(channel);
  if (!receives) {
    const why =
      channel.addressKind === 'sender-name'
        ? 'A sender name cannot be answered'
        : facts.shared
          ? 'The number is shared with other customers and cannot be answered'
          : 'The number cannot receive texts';
    say(
      'one-way-sender',
      'notice',
      `${why}.`,
      'Where a reply is expected, send from a number of your own that receives.',
      {
        hop: 'inbound',
      },
    );
  }
  if (channel.optOutsKept > 0) {
    const people = channel.optOutsKept === 1 ? 'one person' : `${channel.optOutsKept} people`;
    say(
      'opt-outs-kept-by-provider',
      'attention',
      `${account.connectorName} keeps opt-outs to itself: of ${people} Windgap learned only when a send was refused.`,
      `Have ${account.connectorName} pass on what people write, or switch its own handling of STOP off; a START written to it does not arrive here either.`,
      { hop: 'inbound' },
    );
  }
  if (facts.state === 'taken') {
    say(
      'number-taken',
      'error',
      `${displayAddress(channel.address)} is already on the chat network in another way, so the platform will not use it.`,
      'Delete the number’s account in the chat application on the phone, wait until the platform has released it, then check the account again.',
      { hop: 'outbound', action: 'check-account' },
    );
  }
  if (facts.state === 'code-needed') {
    say(
      'number-code-needed',
      'error',
      `${displayAddress(channel.address)} has not been proven by code.`,
      'Ask for a code on the Numbers page and enter what arrives.',
      { hop: 'outbound' },
    );
  }
  if (facts.testMode?.on) {
    const since =
      facts.testMode.since === undefined ? '' : ` since ${new Date(facts.testMode.since).toISOString().slice(0, 10)}`;
    say(
      'test-mode-on',
      'error',
      `Test mode is on${since}: only people who sent the join code ${facts.testMode.joinCode ?? ''} are heard; customers get nothing.`.replace(
        '  ',
        ' ',
      ),
      'Switch test mode off when the test is over.',
      { hop: 'inbound', action: 'end-test-mode' },
    );
  }
  if (receives && account.inboundBelongsTo === 'number' && remote) found.push(...examineAddress());
  return found;

  function examineAddress(): ConnectionFinding[] {
    const start = found.length;
    const elsewhere = numbers.find(
      (number) =>
        number.address !== channel.address &&
        (number.inboundUrl === channel.inboundUrl || number.fallback === channel.inboundUrl),
    );
    const ours = remote?.url === channel.inboundUrl;
    if (elsewhere) {
      say(
        'address-on-another-number',
        'error',
        `The inbound URL of this channel is set for ${displayAddress(elsewhere.address)}${ours ? ' as well' : ' instead'}.`,
        `At ${account.connectorName}, give ${displayAddress(channel.address)} this address and ${displayAddress(elsewhere.address)} its own.`,
        { hop: 'inbound', action: ours ? undefined : action },
      );
    } else if (!remote?.url) {
      say(
        'address-missing',
        channel.handedOver ? 'error' : 'attention',
        `${account.connectorName} has no address for this number, so texts to it go nowhere.`,
        'Set it for the number, on that side too, and save it there.',
        { hop: 'inbound', action },
      );
    } else if (!ours && isSameDoor(remote.url, channel.inboundUrl)) {
      // Whoever set this one cannot have meant another system: which of the two addresses is right is to be found out first.
      say(
        'address-other-origin',
        'attention',
        `${account.connectorName} has the inbound URL of this channel under another address than this installation is told it has: ${new URL(remote.url).origin}.`,
        `Where posts arrive, the public address of this installation (WINDGAP_PUBLIC_URL) is what is wrong; else set the URL there${account.doorOpen ? '' : ', once a request through the public address comes back'}.`,
        { hop: 'inbound', action: account.doorOpen && !channel.postedLately ? action : undefined },
      );
    } else if (!ours) {
      say(
        'address-not-ours',
        'error',
        `${account.connectorName} has another address for this number.`,
        'Replace it with the inbound URL of this channel, unless another system is meant to get the texts.',
        { hop: 'inbound', action },
      );
    }
    if (ours && remote?.method && remote.method.toUpperCase() !== account.inboundMethod) {
      say(
        'inbound-method',
        'error',
        `${account.connectorName} is set to call the inbound URL with ${remote.method.toUpperCase()}; it takes ${account.inboundMethod}.`,
        `Set the method to ${account.inboundMethod} there.`,
        { hop: 'inbound', action },
      );
    }
    if (ours && remote && 'fallback' in remote && !remote.fallback) {
      say(
        'fallback-empty',
        'attention',
        'The fallback address is empty: a text that comes while the first cannot be reached is lost.',
        'Set the fallback URL of this channel there.',
        { hop: 'inbound', action },
      );
    }
    return found.splice(start);
  }
}

/** Whether two addresses differ in nothing but the server: the token in them is one channel's alone. */
function isSameDoor(theirs: string, ours: string): boolean {
  if (!URL.canParse(theirs) || !URL.canParse(ours)) return false;
  return new URL(theirs).pathname === new URL(ours).pathname;
}
