import { first } from './0001-first';
import { connect } from './0002-connect';
import { messages } from './0003-messages';
import { apps } from './0004-apps';
import { automations } from './0005-automations';
import { records } from './0006-records';
import { sheets } from './0007-sheets';
import { feeds } from './0008-feeds';
import { templates } from './0009-templates';
import { contacts } from './0010-contacts';
import { merges } from './0011-merges';
import { routing } from './0012-routing';
import { log } from './0013-log';
import { reminders } from './0014-reminders';
import { readiness } from './0015-readiness';
import { proving } from './0016-proving';
import { refused } from './0017-refused';
import { tidying } from './0018-tidying';
import { safekeeping } from './0019-safekeeping';
import { listViews } from './0020-list-views';
import { plainNames } from './0021-plain-names';
import { longTexts } from './0022-long-texts';
import { workQueue } from './0023-work-queue';
import { wordIndex } from './0024-word-index';
import { credentialsMeantFor } from './0025-credentials-meant-for';
import { sendingLimits } from './0026-sending-limits';
import { appsApart } from './0027-apps-apart';
import { sessions } from './0028-sessions';
import { auditChain } from './0029-audit-chain';
import { secondFactor } from './0030-second-factor';
import { teams } from './0031-teams';
import { boundKeys } from './0032-bound-keys';
import { identities } from './0033-identities';
import { mail } from './0034-mail';
import { consentCoverage } from './0035-consent-coverage';
import { validity } from './0036-validity';
import { fallback } from './0037-fallback';
import { incomingFiles } from './0038-incoming-files';
import { optOutsOfProviders } from './0039-opt-outs-of-providers';
import { numberMoves } from './0040-number-moves';
import { mailboxes } from './0041-mailboxes';
import { mailSigning } from './0042-mail-signing';
import { feedMail } from './0043-feed-mail';
import { choicesAndReactions } from './0044-choices-and-reactions';
import { nameRegistrations } from './0045-name-registrations';
import { missedDeliveries } from './0046-missed-deliveries';
import { consentPerPlatform } from './0047-consent-per-platform';
import { broadcasts } from './0048-broadcasts';
import { broadcastLists } from './0049-broadcastLists';
import { refusedCalls } from './0050-refusedCalls';
import { alertsTold } from './0051-alertsTold';
import { changeTrials } from './0052-changeTrials';
import type { Migration } from './migration';

export const MIGRATIONS: readonly Migration[] = [
  first,
  connect,
  messages,
  apps,
  automations,
  records,
  sheets,
  feeds,
  templates,
  contacts,
  merges,
  routing,
  log,
  reminders,
  readiness,
  proving,
  refused,
  tidying,
  safekeeping,
  listViews,
  plainNames,
  longTexts,
  workQueue,
  wordIndex,
  credentialsMeantFor,
  sendingLimits,
  appsApart,
  sessions,
  auditChain,
  secondFactor,
  teams,
  boundKeys,
  identities,
  mail,
  consentCoverage,
  validity,
  fallback,
  incomingFiles,
  optOutsOfProviders,
  numberMoves,
  mailboxes,
  mailSigning,
  feedMail,
  choicesAndReactions,
  nameRegistrations,
  missedDeliveries,
  consentPerPlatform,
  broadcasts,
  broadcastLists,
  refusedCalls,
  alertsTold,
  changeTrials,
];
