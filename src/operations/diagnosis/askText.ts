/** Asks the provider what became of a text that no receipt has spoken of; its word is evidence, and changes nothing. */
import type { Credentials, TextState } from '../../connectors/connector';
import type { ProviderAccountRow } from '../../store/schema/rows';
import { type AppContext, exchangeRows } from '../context';
import { openCredentials } from '../profiles';

/** What a provider answered, at which moment. */
export type AskedText =
  | (TextState & { known: true; askedAt: number })
  /** It says that it has no such text, though it took it. */
  | { known: false; said: string; askedAt: number };

/** A complaint is looked at several times; the provider is asked anew at most so often. */
const ASK_AGAIN = 20_000;
const MOST_KEPT = 500;

const answers = new WeakMap<AppContext, Map<string, { at: number; answer: Promise<AskedText | undefined> }>>();

/** What the provider says of a text; undefined where it cannot be asked, or did not answer to the question. */
export function askText(ctx: AppContext, messageId: string): Promise<AskedText | undefined> {
  const kept = answers.get(ctx) ?? new Map();
  answers.set(ctx, kept);
  const before = kept.get(messageId);
  if (before && ctx.now() - before.at < ASK_AGAIN) return before.answer;
  if (kept.size >= MOST_KEPT) kept.clear();
  const answer = askNow(ctx, messageId);
  kept.set(messageId, { at: ctx.now(), answer });
  return answer;
}

async function askNow(ctx: AppContext, messageId: string): Promise<AskedText | undefined> {
  const message = await ctx.store.messages.one({ id: messageId });
  const channel = message && (await ctx.store.channels.one({ id: message.channel_id }));
  const account = channel && (await ctx.store.accounts.one({ id: channel.account_id }));
  if (!message?.provider_message_id || !account || account.disabled_at !== null) return undefined;
  if (!ctx.connectors.has(account.connector)) return undefined;
  const connector = ctx.connectors.get(account.connector);
  const credentials = connector.askText && opened(ctx, account);
  if (!connector.askText || !credentials) return undefined;
  const outcome = await connector.askText(credentials, message.provider_message_id);
  const askedAt = ctx.now();
  await ctx.store.write((unit) => unit.exchanges.insert(exchangeRows('ask-text', message.id, outcome)));
  if (outcome.ok) return { ...outcome.value, known: true, askedAt };
  // Only the provider's own words about a text say something of it: what is refused for another reason was not answered.
  const { cause, said = '' } = outcome.failure;
  const answered = cause === 'request-refused' && outcome.exchange?.response?.status === 404;
  return answered ? { known: false, said, askedAt } : undefined;
}

/** Credentials that cannot be opened, or may not be sent there any more, are a finding of their own. */
function opened(ctx: AppContext, account: ProviderAccountRow): Credentials | undefined {
  try {
    return openCredentials(ctx, account);
  } catch {
    return undefined;
  }
}
