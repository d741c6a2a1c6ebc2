/** Every check of readiness: the only place that lists them. */
import { connection } from './account/connection';
import { countries } from './account/countries';
import { credential } from './account/credential';
import { credit } from './account/credit';
import { hops } from './account/hops';
import { mailboxStanding } from './account/mailboxStanding';
import { mailSigned } from './account/mailSigned';
import { numberGone } from './account/numberGone';
import { queues } from './account/queues';
import { setAside } from './account/setAside';
import { trunkStanding } from './account/trunkStanding';
import { apps } from './app/apps';
import { appEvents } from './app/events';
import { appKeys } from './app/keys';
import { appRecords } from './app/records';
import { automationsOff } from './automationsOff';
import type { AccountCheck, ReadinessCheck } from './check';
import { clocks } from './clocks';
import { damagedRows } from './damagedRows';
import { disk } from './disk';
import { door } from './door';
import { engine } from './engine';
import { heldBroadcasts } from './jobs/broadcasts';
import { deliveryTests } from './jobs/deliveryTests';
import { heartbeat } from './jobs/heartbeat';
import { changeTrials } from './jobs/trials';
import { routeDraft } from './routeDraft';
import { routes } from './routes';
import { routesOff } from './routesOff';
import { sealing } from './sealing';
import { sendingLimits } from './sendingLimits';
import { templates } from './templates';
import { appAnswers } from './traffic/appAnswers';
import { receipts, submits } from './traffic/receipts';
import { silence } from './traffic/silence';

export const CHECKS: readonly ReadinessCheck[] = [
  apps,
  appEvents,
  appKeys,
  appRecords,
  routes,
  routeDraft,
  routesOff,
  templates,
  sendingLimits,
  automationsOff,
  engine,
  sealing,
  clocks,
  door,
  silence,
  receipts,
  submits,
  appAnswers,
  damagedRows,
  disk,
  changeTrials,
  deliveryTests,
  heldBroadcasts,
  heartbeat,
];

export const ACCOUNT_CHECKS: readonly AccountCheck[] = [
  credential,
  setAside,
  trunkStanding,
  mailboxStanding,
  mailSigned,
  connection,
  hops,
  numberGone,
  countries,
  queues,
  credit,
];
