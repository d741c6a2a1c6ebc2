/** What needs somebody's attention, counted for the frame around every page. */

import { type AlertView, openAlerts } from '../alerts';
import {
  type Actor,
  type AppContext,
  hasRole,
  reachedConversations,
  reachesPage,
  reachOf,
  reachValues,
} from '../context';
import { countErrors } from '../readiness';
import { countSetAside } from '../setAside';
import { getInstallation } from './installation';

const SHOWN_ALERTS = 5;

export interface Attention {
  /** Conversations with unread messages. */
  unread: number;
  /** Open to-dos. */
  todos: number;
  /** Findings that are broken or about to lose messages. */
  errors: number;
  /** Templates that a platform rejected or paused. */
  templates: number;
  /** What was set aside and waits for a decision. */
  aside: number;
  /** Open alerts, the latest first; for administrators. */
  alerts: AlertView[];
  /** What the installation is called, and whether what it sends reaches real phones. */
  name: string;
  kind: 'test' | 'live';
  /** False when the engine has been silent for most of a minute; nothing is sent then. */
  engine: boolean;
  /** What is wrong with Windgap itself, in words; absent when nothing is. */
  own?: string;
}

/** Reads the counts; an agent is counted what agents can act on. */
export async function getAttention(ctx: AppContext, actor: Actor): Promise<Attention> {
  const reach = await reachOf(ctx.store, actor);
  const [row] = await ctx.store.select<{ unread: number; todos: number; templates: number }>(
    `SELECT (SELECT count(*) FROM conversations v WHERE unread > 0 AND state IN ('open', 'waiting')
               AND ${reachedConversations(reach, 'v')}) AS unread,
            (SELECT count(*) FROM todos t LEFT JOIN conversations v ON v.contact_id = t.contact_id
               WHERE done_at IS NULL AND (v.id IS NULL OR ${reachedConversations(reach, 'v')})) AS todos,
            (SELECT count(*) FROM templates t WHERE t.archived_at IS NULL AND
               (SELECT v.state FROM template_versions v WHERE v.template_id = t.id ORDER BY v.number DESC LIMIT 1)
                 IN ('rejected', 'paused')) AS templates`,
    reachValues(reach),
  );
  const [{ errors, engineSilent, own }, installation, aside, alerts] = await Promise.all([
    countErrors(ctx),
    getInstallation(ctx),
    countSetAside(ctx),
    openAlerts(ctx, SHOWN_ALERTS),
  ]);
  const admin = hasRole(actor, 'administrator');
  return {
    unread: row?.unread ?? 0,
    todos: row?.todos ?? 0,
    errors: admin ? errors : 0,
    aside: admin ? aside : 0,
    alerts: admin ? alerts.filter(({ href }) => reachesPage(reach, href)) : [],
    templates: admin ? (row?.templates ?? 0) : 0,
    name: installation.name,
    kind: installation.kind,
    engine: !engineSilent,
    ...(own ? { own } : {}),
  };
}
