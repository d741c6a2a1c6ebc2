/** Makes a connector out of an HTTP profile: the profile says what differs, this does what is the same. */
import type { Clock } from '../../clock/clock';
import type { AccountFacts } from '../../core/connect/facts';
import type { Accepted, Connector, Credentials, Exchange, OutboundText, Outcome } from '../connector';
import { common } from '../profile/common';
import type { HttpProfile } from '../profile/schema';
import type { TemplatesShape } from '../profile/templates';
import { type AddressForm, toProvider } from './addressForm';
import { type Call, createCall } from './call';
import { readAccountFacts, readNumber, readOffer } from './facts';
import { parseInbound, readChallenge, readTextState } from './inbound';
import { nodes } from './jsonPath';
import type { OutboundHttp } from './outbound';
import { money, required } from './read';
import { verifyRequest } from './signature';
import { originOf } from './template';
import { readReviews, readSubmitted, rulesOf, submissionScope } from './templates';

export function httpConnector(profile: HttpProfile, http: OutboundHttp, clock: Clock): Connector {
  const shared = common(profile);
  const call = createCall({ http: profile.http, errors: profile.errors, fields: shared.credentialFields }, http, clock);
  const done = () => null;
  const { numbers, inbound, addressForm: form } = profile;
  const outbound = (text: OutboundText) => ({
    ...text,
    sender: toProvider(text.sender, form),
    recipient: toProvider(text.recipient, form),
  });
  const { search, claim, release, code, endTestMode } = numbers;
  const { setInbound, subscribe, register, phoneCode, textState } = profile;
  const templates = profile.kind === 'business-chat' ? profile.templates : undefined;
  return {
    ...shared,
    addresses: (credentials) => [originOf(profile.http.base, credentials)],
    challenges: inbound.challenge !== undefined,
    inboundBelongsTo: setInbound?.belongsTo ?? 'number',
    limits: profile.limits,
    requires: profile.requires,
    honoursReference: profile.send.honoursReference,
    givesReceipts: inbound.receipts !== undefined,
    inboundMethod: inbound.method,
    codesFor: [...(phoneCode ? (['phone'] as const) : []), ...(code ? (['number'] as const) : [])],
    checkAccount: (credentials) => checkAccount(profile, call, credentials),
    tells: { inboundUrl: numbers.read.inboundUrl !== undefined, fallback: numbers.read.inboundFallback !== undefined },
    listNumbers: (credentials) =>
      call(credentials, numbers.request, {}, (answer) =>
        nodes(answer, numbers.each).map((entry) => readNumber(profile, entry)),
      ),
    searchNumbers:
      search &&
      ((credentials, query) =>
        call(credentials, search.request, { query: { areaCode: '', digits: '', ...query } }, (answer) =>
          nodes(answer, search.each).map((entry) => readOffer(search.read, profile, entry)),
        )),
    claimNumber: claim && ((credentials, offerId) => call(credentials, claim, { offer: { id: offerId } }, done)),
    releaseNumber: release && ((credentials, remoteId) => call(credentials, release, { number: { remoteId } }, done)),
    startCode:
      (code || phoneCode) &&
      ((credentials, what) => {
        const plan = (what.kind === 'phone' ? phoneCode : code)?.start;
        if (!plan) throw new Error(`The profile of ${profile.name} has no codes for a ${what.kind}`);
        return call(credentials, plan, subjectScope(what, form), done);
      }),
    confirmCode:
      (code || phoneCode) &&
      ((credentials, what, typed) => {
        const plan = (what.kind === 'phone' ? phoneCode : code)?.confirm;
        if (!plan) throw new Error(`The profile of ${profile.name} has no codes for a ${what.kind}`);
        return call(credentials, plan, { ...subjectScope(what, form), code: typed }, done);
      }),
    register:
      register &&
      ((credentials, input) => call(credentials, register[input.step], { registration: { ...input } }, done)),
    setInbound:
      setInbound &&
      ((credentials, number, address) =>
        call(
          credentials,
          setInbound.request,
          { number: { ...number, address: toProvider(number.address, form) }, address },
          done,
        )),
    subscribe:
      subscribe &&
      ((credentials) =>
        call(credentials, subscribe, { subscriptions: profile.requires.subscriptions.join(',') }, done)),
    endTestMode:
      endTestMode && ((credentials, remoteId) => call(credentials, endTestMode, { number: { remoteId } }, done)),
    mediaTypes: profile.send.media?.types ?? [],
    choices: profile.send.choices && { most: profile.send.choices.most, longest: profile.send.choices.longest },
    ...(templates ? templating(templates, call) : {}),
    send: (credentials, message) =>
      call(
        credentials,
        message.template && templates
          ? templates.send
          : ((message.media ? profile.send.media : message.choices ? profile.send.choices : undefined)?.request ??
              profile.send.request),
        { message: outbound(message) },
        (answer): Accepted => {
          const { read } = profile.send;
          return {
            providerMessageId: required(answer, read.providerMessageId),
            price: money(answer, read.price, read.currency, profile.amounts),
          };
        },
      ),
    askText:
      textState &&
      ((credentials, providerMessageId) =>
        call(credentials, textState.request, { message: { providerMessageId } }, (answer) =>
          readTextState(textState, answer),
        )),
    readChallenge: inbound.challenge && ((request) => readChallenge(inbound.challenge as never, request)),
    verify: (credentials, request, now) => verifyRequest(inbound, credentials, request, now),
    parse: (request) => parseInbound(inbound, templates, form, request),
  };
}

function templating(shape: TemplatesShape, call: Call): Partial<Connector> {
  const { submit, revise, fetch, find, retire } = shape;
  return {
    templateRules: rulesOf(shape),
    submitTemplate: (credentials, submission) => {
      const { request, one } = (submission.remoteId ? revise : undefined) ?? submit;
      return call(credentials, request, { template: submissionScope(shape, submission) }, (answer) =>
        readSubmitted(shape, answer, one),
      );
    },
    fetchTemplate: (credentials, remoteId) =>
      call(credentials, fetch.request, { template: { remoteId } }, (answer) => readReviews(shape, answer, fetch.each)),
    findTemplate:
      find &&
      ((credentials, name) =>
        call(credentials, find.request, { template: { name } }, (answer) => readReviews(shape, answer, find.each))),
    retireTemplate:
      retire && ((credentials, remoteId) => call(credentials, retire, { template: { remoteId } }, () => null)),
  };
}

function subjectScope(what: { kind: 'phone' | 'number'; id: string }, form: AddressForm) {
  return what.kind === 'phone' ? { phone: toProvider(what.id, form) } : { number: { remoteId: what.id } };
}

/** The first request decides; further ones only add facts, and their failure takes none away. */
async function checkAccount(
  profile: HttpProfile,
  call: Call,
  credentials: Credentials,
): ReturnType<Connector['checkAccount']> {
  const { amounts } = profile;
  const { request, read, also, words } = profile.account;
  const first = await call(credentials, request, {}, (answer) => readAccountFacts(read, words, answer, amounts));
  if (!first.ok) return first;
  const paths = Object.values(read).filter((path) => typeof path === 'string');
  if (paths.length > 0 && Object.keys(first.value).length === 0)
    return {
      ok: false,
      failure: { cause: 'answer-unread', said: `nothing at ${paths.slice(0, 3).join(', ')}` },
      exchange: first.exchange,
    };
  const further = await Promise.all(
    also.map((entry) =>
      call(credentials, entry.request, {}, (answer) => readAccountFacts(entry.read, words, answer, amounts)),
    ),
  );
  const refused = further.find((outcome) => !outcome.ok && outcome.failure.cause.startsWith('credential-'));
  const exchanges = further.flatMap((outcome) => outcome.exchange ?? []);
  if (refused && !refused.ok)
    return { ...refused, also: [first.exchange, ...exchanges].filter((entry) => entry !== undefined) };
  const clock = clockFact(first.exchange);
  const facts = Object.assign(clock, first.value, ...further.map((outcome) => (outcome.ok ? outcome.value : {})));
  return { ok: true, value: facts, exchange: first.exchange, also: exchanges } satisfies Outcome<typeof facts>;
}

const MINUTE = 60_000;

/** In whole minutes: a second more or less is the way there and back. */
function clockFact(exchange: Exchange | undefined): AccountFacts {
  const ahead = exchange?.clockAhead;
  return ahead === undefined ? {} : { clockAhead: Math.trunc(ahead / MINUTE) * MINUTE };
}
