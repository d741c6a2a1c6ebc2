/** The web process's one Windgap. Kept on globalThis because the server, pages and handlers are separate bundles. */
import { createKeyCheck, type KeyCheck } from '../operations/apiKeys';
import { createIntake, type Intake } from '../operations/intake';
import type { Sender } from '../operations/orders';
import { createSender } from '../operations/sending';
import { type Chat, createChat } from '../operations/webChat';
import { configFromEnvironment, openWindgap, type Windgap } from '../operations/windgap';
import { type CallCounter, createCallCounter } from './calls';
import { createLiveFeed, type LiveFeed } from './liveFeed';

export interface Web {
  windgap: Windgap;
  intake: Intake;
  send: Sender;
  checkKey: KeyCheck;
  calls: CallCounter;
  live: LiveFeed;
  chat: Chat;
}

const kept = globalThis as typeof globalThis & { windgapWeb?: Promise<Web> };

export function web(): Promise<Web> {
  kept.windgapWeb ??= open();
  return kept.windgapWeb;
}

async function open(): Promise<Web> {
  const w = await openWindgap(configFromEnvironment(process.env), 'web');
  return {
    windgap: w,
    intake: createIntake(w),
    send: createSender(w),
    checkKey: createKeyCheck(w),
    calls: createCallCounter(w.config.callsPerMinute, w.now),
    live: createLiveFeed(w),
    chat: createChat(w),
  };
}
