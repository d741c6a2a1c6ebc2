/**
 * The contract between Windgap and one kind of provider. Each ability is optional;
 * a connector announces what it can do by having the function. Everything a connector
 * did over the wire comes back as exchanges, already masked, so that it can be shown.
 */
import type { ChannelKind } from '../core/connect/channelKinds';
import type { AccountFacts, NumberFacts, Requirements } from '../core/connect/facts';
import type { CauseCode } from '../core/delivery/causes';
import type { ChoiceRules } from '../core/delivery/choices';
import type { Media } from '../core/delivery/media';
import type { Finding } from '../core/finding';
import type { PriceLine } from '../core/limits/prices';
import type { TemplateRules } from '../core/templates/rules';
import type { Category, Template } from '../core/templates/template';
import type { SmtpAccount } from './mail/security';
import type { TrunkDialect, TrunkSettings } from './smpp/dialect';

export type { AccountFacts } from '../core/connect/facts';

/** Values of the connector's own credential fields, by field name. */
export type Credentials = Readonly<Record<string, string>>;

export interface CredentialField {
  name: string;
  label: string;
  help: string;
  /** Masked everywhere and never shown again after saving. */
  secret: boolean;
  initial?: string;
  /** Shape of a right value, used to tell what is wrong with another. */
  pattern?: { test(value: string): boolean };
}

/** One request made and what came back. Times are epoch milliseconds; secrets are masked. */
export interface Exchange {
  at: number;
  elapsedMs: number;
  request: { method: string; url: string; headers: Record<string, string>; body: string | null };
  response: { status: number; headers: Record<string, string>; body: string } | null;
  /** By how many milliseconds the clock of whoever answered is ahead of this computer’s, where it said its time (RFC 9110 §6.6.1). */
  clockAhead?: number;
}

export interface Failure {
  cause: CauseCode;
  /** The provider's own words, when it gave any. */
  said?: string;
  /** Milliseconds the provider asked us to wait. */
  retryAfter?: number;
  /** The request may have taken effect although no answer came. */
  outcomeUnknown?: boolean;
}

/** `also` holds what was asked beside the exchange that decided; there is none where nobody outside was asked. */
export type Outcome<T> =
  | { ok: true; value: T; exchange?: Exchange; also?: Exchange[] }
  | { ok: false; failure: Failure; exchange?: Exchange; also?: Exchange[] };

export interface RemoteNumber {
  remoteId: string;
  address: string;
  abilities: string[];
  inbound: { url?: string; method?: string; fallback?: string };
  facts: NumberFacts;
}

export interface InboundAddress {
  url: string;
  fallback: string;
  /** What the platform must send to prove that it means this channel. */
  challengeWord: string;
}

export interface OutboundText {
  /** Our id of the message, sent as the provider's client reference. */
  reference: string;
  sender: string;
  recipient: string;
  text: string;
  /** What records of it say in place of the text: it carries a code that is for its recipient alone. */
  shown?: string;
  /** Only where the connector carries files of this type. */
  media?: Media;
  /** For how many seconds it is of use from now on; absent where it has no end. */
  validSeconds?: number;
  /** Where the provider posts this message's receipts. */
  receiptUrl: string;
  /** The provider's own id of the sender's number. */
  numberId: string;
  /** Where mail for the recipient's phone goes, for a gateway that takes mail. */
  mailTo?: string;
  /** What a mail has besides its words. */
  mail?: OutboundMail;
  /** Answers that may be pressed; only where the connector shows them. */
  choices?: readonly string[];
  /** The approved template the text was made of; `values` by the numbers of its variables. */
  template?: { remoteId: string; edition: string; language: string; values: readonly string[] };
}

export interface OutboundMail {
  subject: string;
  /** Message-ID of what it answers, and of the thread it stands in, oldest first. */
  inReplyTo?: string;
  references: readonly string[];
  /** RFC 3834 §5, where no person wrote it. */
  automatic?: 'auto-generated' | 'auto-replied';
  files: readonly { name: string; type: string; content: Buffer }[];
  /** It is signed with that (RFC 6376). */
  signing?: MailSigning;
  /** Whoever posts there gets no more (RFC 8058); only where it is signed. */
  leaveUrl?: string;
}

export interface MailSigning {
  domain: string;
  selector: string;
  /** PEM. */
  key: string;
}

export type ReviewState = 'in-review' | 'approved' | 'rejected' | 'paused' | 'retired';

/** Why a platform did not take a template, in its own words. */
export interface ReviewReason {
  text: string;
  code?: string;
  part?: 'header' | 'body' | 'footer' | 'buttons' | 'samples' | 'language' | 'name' | 'category';
  language?: string;
}

/** Where one version of a template stands at its platform. */
export interface TemplateReview {
  remoteId: string;
  /** Tells the versions of one template apart; empty where the platform has no such thing. */
  edition: string;
  state: ReviewState;
  /** What it is filed under, which is not always what was asked for. */
  category?: Category;
  reasons: ReviewReason[];
  decidedAt?: number;
  /** How long a review usually takes. */
  usualMinutes?: number;
}

export interface TemplateSubmission {
  template: Template;
  /** The platform's id of the template this is a new version of. */
  remoteId?: string;
  /** Where the platform fetches a header's file. */
  mediaUrl(id: string): string;
}

export interface Accepted {
  providerMessageId: string;
  price?: { micros: number; currency: string };
  /** Ids of all parts where the provider answers for each of them. */
  parts?: string[];
}

/** What came from outside. A trunk's deliver_sm takes the same shape: fields as headers, octets as body. */
export interface InboundHttpRequest {
  method: string;
  /** As the provider called it, with its query. */
  url: string;
  headers: Readonly<Record<string, string>>;
  body: Buffer;
}

export type InboundItem = TextItem | ReceiptItem | ReviewItem | ReactionItem | ConsentItem;

export interface ReviewItem {
  kind: 'review';
  review: TemplateReview;
}

/** A sign somebody put to a message of ours. */
export interface ReactionItem {
  kind: 'reaction';
  /** Of our message. */
  providerMessageId: string;
  /** Empty where it was taken away again. */
  sign: string;
  at?: number;
}

/** What somebody told the provider, which took it for itself: that they want no more, or want it again. */
export interface ConsentItem {
  kind: 'consent';
  from: string;
  /** The number it was told to. */
  to: string;
  what: 'withdrawn' | 'given';
  /** The person's or the provider's words. */
  said: string;
  at?: number;
}

export interface TextItem {
  kind: 'text';
  providerMessageId: string;
  from: string;
  to: string;
  text: string;
  at?: number;
  /** A part of a longer text, to be joined with the others. */
  part?: { reference: number; total: number; sequence: number };
  /** The octets cannot have been written in the alphabet they were read in, but in this one. */
  alphabetDoubt?: string;
  /** The sender's name, where a platform tells it. */
  senderName?: string;
  media?: Media;
  subject?: string;
  /** The provider’s ids of messages it may answer, the likeliest first. */
  answers?: readonly string[];
  /** Why it counts as written by a program, as a sentence; nothing answers it by itself. */
  automatic?: string;
  /** Files that came along, with what they hold. */
  files?: readonly { name: string; type: string; content: Buffer }[];
}

export interface ReceiptItem {
  kind: 'receipt';
  providerMessageId: string;
  /** The id as it was written, where a setting says to read it in another base. */
  writtenId?: string;
  /** The client reference we sent, when the provider returns it. */
  reference?: string;
  /** On a trunk: the number marking our submit (user_message_reference), and the phone the receipt is about. */
  mark?: { reference: number; recipient: string };
  state: 'sent' | 'delivered' | 'undelivered' | 'read';
  cause?: CauseCode;
  /** The provider's own state and code. */
  said: string;
  at?: number;
}

/** What a provider says of one text when it is asked. */
export interface TextState {
  /** Absent where its word is not among those its profile lists. */
  state?: 'taken' | 'sent' | 'delivered' | 'undelivered' | 'read';
  cause?: CauseCode;
  /** The provider's own state and code. */
  said: string;
  at?: number;
}

/** A part of a post that its profile cannot read, beside others that it can. */
export interface UnreadPart {
  /** `event`: a whole event of a kind the profile does not know. */
  what: 'text' | 'receipt' | 'reaction' | 'word' | 'event';
  reason: string;
  /** A word of the provider's that the profile does not list. */
  unlisted?: string;
}

export type ParsedInbound =
  | { ok: true; items: InboundItem[] /** Parts that could not be read. */; unread?: UnreadPart[] }
  | { ok: false; reason: string };

export type Verdict = 'valid' | 'missing' | 'wrong' | 'stale' | 'not-used' | 'bind' | 'fetched';

/** A step the administrator takes on the provider's side when Windgap cannot or should not. */
export interface HandoverStep {
  text: string;
  /** Which of our values is copied at this step. */
  value?: 'inbound-url' | 'fallback-url' | 'challenge-word';
}

/** What must be at hand before starting, and where it is found. */
export interface Precondition {
  text: string;
  help?: string;
}

export interface NumberQuery {
  /** ISO 3166-1 alpha-2. */
  country: string;
  areaCode?: string;
  /** Digits that should appear, anywhere. */
  digits?: string;
}

export interface OfferedNumber {
  /** What claiming it takes. */
  offerId: string;
  address: string;
  abilities: string[];
  price?: NumberFacts['price'];
}

export interface RegistrationInput {
  country: string;
  step: 'brand' | 'use';
  name: string;
  /** Company number for a brand, a description and sample text for a use. */
  details: string;
}

export interface Limits {
  /** Messages a second. */
  pace: number;
  /** Requests unanswered at once. */
  concurrency: number;
  /** Characters of one message. */
  longestText: number;
  /** Hours of free text after a contact's last message, where the platform has such a rule. */
  replyWindowHours?: number;
}

export interface Connector {
  readonly id: string;
  readonly name: string;
  readonly summary: string;
  readonly kind: ChannelKind;
  readonly preconditions: readonly Precondition[];
  readonly credentialFields: readonly CredentialField[];
  readonly handover: readonly HandoverStep[];
  /** The provider has to be given an address of ours to call. */
  readonly handsOverAddress: boolean;
  /** The platform calls the inbound URL with a word before it uses it. */
  readonly challenges: boolean;
  /** Whose the address is: each number's own, or one for the whole account. */
  readonly inboundBelongsTo: 'number' | 'account';
  readonly limits: Limits;
  /** What its texts cost, as its profile says; none where it says nothing. */
  readonly prices: readonly PriceLine[];
  /** Media types of the files that may go with a text; none where there is no way to send one. */
  readonly mediaTypes: readonly string[];
  /** What it shows of answers that may be pressed; absent where it shows none. */
  readonly choices?: ChoiceRules;
  readonly requires: Requirements;
  /** The provider recognises a repeated client reference and does not send twice. */
  readonly honoursReference: boolean;
  /** Delivery receipts come back. Without them a message ends as sent unless something bounces. */
  readonly givesReceipts: boolean;
  /** Settings of the held link of a trunk; its texts go over that link and not through `send`. */
  readonly trunk?: TrunkDialect;
  /** Opens the held link of a trunk and keeps it open until it is closed. */
  openTrunk?(credentials: Credentials, settings: TrunkSettings, events: TrunkEvents): TrunkLink;
  /** The domain its mail is from. */
  mailDomain?(credentials: Credentials): string;
  /** The mail server it sends through, for mail to our own people. */
  smtpAccount?(credentials: Credentials): SmtpAccount;
  /** Opens a mailbox that is read and not posted to us, from a place on, and keeps it open until it is closed. */
  openMailbox?(credentials: Credentials, from: MailboxPosition | undefined, events: MailboxEvents): MailboxLink;
  /** Where the credentials are sent to: scheme, host and port of each. */
  addresses(credentials: Credentials): string[];
  /** Where in its profile secrets are put into what is sent, as paths of the document. */
  readonly secretPlaces: readonly string[];
  /** What can be told about the values without calling anyone. */
  examineCredentials(credentials: Credentials): { field: string; finding: Finding }[];
  checkAccount(credentials: Credentials, settings: Record<string, unknown>): Promise<Outcome<AccountFacts>>;
  /** What the list of numbers tells of each one’s addresses; what it does not tell is not known to be missing. */
  readonly tells?: { inboundUrl: boolean; fallback: boolean };
  listNumbers?(credentials: Credentials): Promise<Outcome<RemoteNumber[]>>;
  searchNumbers?(credentials: Credentials, query: NumberQuery): Promise<Outcome<OfferedNumber[]>>;
  claimNumber?(credentials: Credentials, offerId: string): Promise<Outcome<null>>;
  releaseNumber?(credentials: Credentials, remoteId: string): Promise<Outcome<null>>;
  /** Sends a code to a phone, or to a number of ours that the platform has to see proven. */
  startCode?(credentials: Credentials, what: CodeSubject): Promise<Outcome<null>>;
  confirmCode?(credentials: Credentials, what: CodeSubject, code: string): Promise<Outcome<null>>;
  /** What `startCode` and `confirmCode` can be about. */
  readonly codesFor: readonly CodeSubject['kind'][];
  register?(credentials: Credentials, input: RegistrationInput): Promise<Outcome<null>>;
  setInbound?(
    credentials: Credentials,
    number: { remoteId: string; address: string },
    to: InboundAddress,
  ): Promise<Outcome<null>>;
  /** Orders the events that the profile requires. */
  subscribe?(credentials: Credentials): Promise<Outcome<null>>;
  /** Ends a number's test mode, in which only people with a join code are heard. */
  endTestMode?(credentials: Credentials, remoteId: string): Promise<Outcome<null>>;
  /** What the platform demands of templates; absent where it knows none. */
  readonly templateRules?: TemplateRules;
  submitTemplate?(credentials: Credentials, submission: TemplateSubmission): Promise<Outcome<TemplateReview>>;
  /** Where every version of a template stands. */
  fetchTemplate?(credentials: Credentials, remoteId: string): Promise<Outcome<TemplateReview[]>>;
  /** Every version of the template of a name, for a submission whose answer was lost; absent where it cannot be asked. */
  findTemplate?(credentials: Credentials, name: string): Promise<Outcome<TemplateReview[]>>;
  retireTemplate?(credentials: Credentials, remoteId: string): Promise<Outcome<null>>;
  send?(credentials: Credentials, text: OutboundText): Promise<Outcome<Accepted>>;
  /** What became of a text it took; absent where it cannot be asked. */
  askText?(credentials: Credentials, providerMessageId: string): Promise<Outcome<TextState>>;
  /** Whose network a phone is on, as an E.164 number's carrier name. */
  lookUpCarrier?(credentials: Credentials, phone: string): Promise<Outcome<string>>;
  /** The word and the echo of a verification challenge; undefined when the request is none. */
  readChallenge?(request: InboundHttpRequest): { word: string; echo: string } | undefined;
  /** The request's way of carrying a body: POST, or GET with everything in the query. */
  readonly inboundMethod: 'POST' | 'GET';
  /** Octets of what is posted at most, where it is more than usual. */
  readonly largestInbound?: number;
  verify(credentials: Credentials, request: InboundHttpRequest, now: number): Verdict;
  /** `settings` are those of the account; only a trunk reads them. */
  parse(
    request: InboundHttpRequest,
    settings: Readonly<Record<string, unknown>>,
  ): ParsedInbound | Promise<ParsedInbound>;
}

export interface CodeSubject {
  kind: 'phone' | 'number';
  /** E.164 for a phone, the provider's id for a number. */
  id: string;
}

/** One PDU that went over a trunk, with the fields worth reading. */
export interface TrunkPdu {
  at: number;
  way: 'in' | 'out';
  command: string;
  status: number;
  sequence: number;
  /** Read only from PDUs that are kept. */
  fields(): Record<string, unknown>;
  messageId?: string;
}

export interface TrunkChange {
  state: 'binding' | 'bound' | 'waiting' | 'refused' | 'off';
  cause?: CauseCode;
  said?: string;
  nextTryAt?: number;
}

export interface TrunkEvents {
  changed(change: TrunkChange): void;
  /** Resolves once the deliver_sm is stored; only then is it answered. */
  arrived(request: InboundHttpRequest): Promise<void>;
  /** An answer to a submit that had been given up as unknown. */
  answeredLate(reference: string, accepted: Accepted): void;
  pdu(entry: TrunkPdu): void;
}

export interface TrunkText extends OutboundText {
  /** Marks the submits of this text; its lowest 16 bits are used, one further for each part. */
  mark: number;
  /** It goes to many: what goes to one overtakes it. */
  bulk?: boolean;
  /** Asked when its turn has come and before anything of it is written; where it says no, nothing is. */
  stillLeaves?(): Promise<boolean>;
}

export interface TrunkLink {
  readonly bound: boolean;
  /** Submits without an answer. */
  readonly unanswered: number;
  /** Submits in the last second. */
  paceNow(): number;
  /**
   * How many texts may be handed over now, some of them ahead of their turn: enough to last while the next claim is written.
   * For what is no bulk, bulk that waits takes no room.
   */
  room(claimMs: number, bulk?: boolean): number;
  submit(text: TrunkText): Promise<Outcome<Accepted>>;
  /** Unbinds once what is under way is answered. */
  close(): Promise<void>;
}

/** Up to where a mailbox has been read. */
export interface MailboxPosition {
  /** What its UIDs are counted within. */
  validity: string;
  /** The last one taken. */
  uid: number;
  /** When that came, or when reading began. */
  at: number;
}

export interface MailboxChange {
  state: 'opening' | 'open' | 'waiting' | 'refused';
  cause?: CauseCode;
  said?: string;
  nextTryAt?: number;
}

export interface FetchedMail {
  /** As it came over the wire; of one that is too long its beginning. */
  source: Buffer;
  /** How long it is, where it is longer than what is taken. */
  tooLong?: number;
}

export interface MailboxEvents {
  changed(change: MailboxChange): void;
  /** Reading begins there: what came before is not taken. */
  began(at: MailboxPosition): Promise<void>;
  /** Resolves once the mail and the place after it are stored; only then is the next one asked for. */
  arrived(mail: FetchedMail, after: MailboxPosition): Promise<void>;
}

export interface MailboxLink {
  close(): Promise<void>;
}
