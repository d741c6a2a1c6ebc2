/** The web process's one Windgap. Kept on globalThis because the server, pages and handlers are separate bundles. */
import { createKeyCheck, createRefusedCallKeeper, type KeyCheck, type RefusedCallKeeper } from '../operations/apps';
import { type Chat, createChat } from '../operations/channels';
import { type AppContext, configFromEnvironment, openAppContext } from '../operations/context';
import { createIntake, type Intake } from '../operations/inbound';
import { createSender, type Sender } from '../operations/outbound';
import { type CallCounter, createCallCounter } from './calls';
import { createLiveFeed, type LiveFeed } from './liveFeed';
import { createOpenStreams, type OpenStreams } from './openStreams';

export interface Web {
  windgap: AppContext;
  intake: Intake;
  send: Sender;
  checkKey: KeyCheck;
  calls: CallCounter;
  keepRefused: RefusedCallKeeper;
  live: LiveFeed;
  /** Pages of people that hear of changes. */
  liveStreams: OpenStreams;
  chat: Chat;
}

const kept = globalThis as typeof globalThis & { windgapWeb?: Promise<Web> };

export function web(): Promise<Web> {
  kept.windgapWeb ??= open();
  return kept.windgapWeb;
}

async function open(): Promise<Web> {
  const ctx = await openAppContext(configFromEnvironment(process.env), 'web');
  const send = createSender(ctx);
  return {
    windgap: ctx,
    intake: createIntake(ctx),
    send,
    checkKey: createKeyCheck(ctx),
    keepRefused: createRefusedCallKeeper(ctx),
    calls: createCallCounter(ctx.config.callsPerMinute, ctx.now),
    live: createLiveFeed(ctx),
    liveStreams: createOpenStreams(30),
    chat: createChat(ctx, send),
  };
}
