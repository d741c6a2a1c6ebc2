/** What an agent may choose from when answering: replies that are written already, and templates that may be sent now. */

import { guessMapping, mapValues, variantFor } from '../../core/templates/mapping';
import type { Values } from '../../core/templates/render';
import { standingOf } from '../../core/templates/standing';
import { type Variant, variablesOf } from '../../core/templates/template';
import { knownOf } from '../contacts';
import { type Actor, type AppContext, requireRole } from '../context';
import { contentOf, servedContent } from '../templates';
import type { ConversationSummary } from './conversations';

export interface AnswerOffer {
  id: string;
  name: string;
  /** Put into the reply, or sent as the platform approved it. */
  kind: 'text' | 'template';
  /** In the contact's language, where there is one. */
  variant: Variant;
  /** What is known of the contact, by variable. */
  values: Values;
}

export async function answersFor(
  ctx: AppContext,
  actor: Actor,
  conversation: Pick<ConversationSummary, 'contactId'> & { channelId: string | undefined },
): Promise<AnswerOffer[]> {
  requireRole(actor, 'viewer');
  const [known, channel, rows] = await Promise.all([
    knownOf(ctx.store, [conversation.contactId]),
    conversation.channelId === undefined ? undefined : ctx.store.channels.one({ id: conversation.channelId }),
    ctx.store.templates.all({ archived_at: null }, { order: [['name', 'ASC']] }),
  ]);
  const attributes = known.get(conversation.contactId) ?? {};
  const offers: AnswerOffer[] = [];
  for (const row of rows) {
    if (row.kind === 'platform') {
      if (row.account_id !== channel?.account_id) continue;
      const versions = await ctx.store.templateVersions.all({ template_id: row.id });
      if (!standingOf(contentOf(row), versions).serving) continue;
    }
    const served = await servedContent(ctx.store, row.id);
    const variant = served && variantFor(served.content.variants, attributes.language || undefined);
    if (!variant) continue;
    const variables = variablesOf(variant);
    const guesses = guessMapping(variables, [], Object.keys(attributes));
    const { values } = mapValues(variables, guesses, { attributes });
    offers.push({ id: row.id, name: row.name, kind: row.kind === 'platform' ? 'template' : 'text', variant, values });
  }
  return offers;
}
