/** Faults that the bench can switch on. */
export interface BrackwaterFaults {
  /** Connections are cut without an answer. */
  down: boolean;
  /** Milliseconds added to every answer of the API. */
  slowAnswers: number;
  /** Repeated references are sent again, as a provider without them would. */
  ignoresReferences: boolean;
  signsWithAnotherSecret: boolean;
  postsTwice: boolean;
  reportsBeforeAnswer: boolean;
  reportsReversed: boolean;
  /** Posts a receipt for a text nobody sent, beside each real one. */
  strayReports: boolean;
  /** The API answers 500, or never, or that it is called too often. */
  answers500: boolean;
  hangs: boolean;
  throttlesAll: boolean;
  /** A page to sign in at a guest network answers in place of the API. */
  portal: boolean;
  /** Refuses every text with a code that stands in no documentation. */
  refusesOddly: boolean;
  /** Takes texts to other countries and neither carries nor reports them. */
  swallowsAbroad: boolean;
  /** Takes texts and does not carry them; carries them and says nothing of it; carries them twice. */
  losesTexts: boolean;
  sendsNoReports: boolean;
  carriesTwice: boolean;
  /** Milliseconds before a text is carried. */
  delaysTexts: number;
  /** Does not post what comes in, or posts what nobody can read. */
  losesIncoming: boolean;
  /** Takes STOP and START itself: posts neither, and sends nothing to whoever wrote STOP. */
  keepsStops: boolean;
  /** And tells of it in a post of its own. */
  tellsStops: boolean;
  garblesPosts: boolean;
  /** What an account can run into without anybody touching Windgap. */
  creditGone: boolean;
  secretEnded: boolean;
  regionsOff: boolean;
  trialAgain: boolean;
}

export const NO_FAULTS: BrackwaterFaults = {
  down: false,
  slowAnswers: 0,
  ignoresReferences: false,
  signsWithAnotherSecret: false,
  postsTwice: false,
  reportsBeforeAnswer: false,
  reportsReversed: false,
  strayReports: false,
  answers500: false,
  hangs: false,
  throttlesAll: false,
  portal: false,
  refusesOddly: false,
  swallowsAbroad: false,
  losesTexts: false,
  sendsNoReports: false,
  carriesTwice: false,
  delaysTexts: 0,
  losesIncoming: false,
  keepsStops: false,
  tellsStops: false,
  garblesPosts: false,
  creditGone: false,
  secretEnded: false,
  regionsOff: false,
  trialAgain: false,
};
