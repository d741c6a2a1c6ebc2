/** What an app may see: the messages it sent or was told of, with their people and conversations. */
import type { Store } from '../../store/store';
import type { Actor } from './actor';

/** The app whose sight is narrowed; undefined for people, and for keys that see the messages of all apps. */
export function narrowedApp(actor: Actor): string | undefined {
  return actor.kind === 'app' && !actor.scopes.includes('messages:all') ? actor.id : undefined;
}

/** A condition over `messages m`, with the app as `:appId`. */
export const APP_SEES = `(m.origin_kind = 'app' AND m.origin_id = :appId
  OR EXISTS (SELECT 1 FROM told_apps t WHERE t.app_id = :appId AND t.message_id = m.id))`;

/** Whether somebody may see what a condition over `messages m` finds. */
export async function seesAny(
  from: Pick<Store, 'select'>,
  actor: Actor,
  where: string,
  values: Record<string, unknown>,
): Promise<boolean> {
  const appId = narrowedApp(actor);
  if (appId === undefined) return true;
  const rows = await from.select(`SELECT 1 FROM messages m WHERE ${where} AND ${APP_SEES} LIMIT 1`, {
    ...values,
    appId,
  });
  return rows.length > 0;
}
