/** People who were written to or who wrote, as apps and people read them. */
import type { ContactConsentRow, ContactIdentityRow, ContactRow } from '../../store/schema/rows';
import { type Actor, APP_SEES, type AppContext, found, narrowedApp, requireAccess, seesAny } from '../context';

export interface ContactView extends ContactRow {
  identities: Pick<ContactIdentityRow, 'kind' | 'value'>[];
  consents: ContactConsentRow[];
}

/** Newest first; `before` is the id the page before ended with. `address` is a number in E.164 or a visitor's id. */
export async function listContacts(
  ctx: AppContext,
  actor: Actor,
  { limit, before, address }: { limit: number; before?: string; address?: string },
): Promise<{ contacts: ContactView[]; next?: string }> {
  requireAccess(actor, 'viewer', 'conversations:read');
  const appId = narrowedApp(actor);
  const rows = await ctx.store.select<ContactRow>(
    `SELECT c.* FROM contacts c
      WHERE (:before IS NULL OR c.id < :before)
        ${appId === undefined ? '' : `AND EXISTS (SELECT 1 FROM messages m WHERE m.contact_id = c.id AND ${APP_SEES})`}
        AND (:address IS NULL OR EXISTS (SELECT 1 FROM contact_identities i WHERE i.contact_id = c.id AND i.value = :address))
      ORDER BY c.id DESC LIMIT :most`,
    { before: before ?? null, address: address ?? null, most: limit + 1, ...(appId === undefined ? {} : { appId }) },
  );
  const page = rows.slice(0, limit);
  const contacts = await withIdentities(ctx, page);
  return { contacts, next: rows.length > limit ? page.at(-1)?.id : undefined };
}

export async function getContact(ctx: AppContext, actor: Actor, id: string): Promise<ContactView> {
  requireAccess(actor, 'viewer', 'conversations:read');
  const sees = await seesAny(ctx.store, actor, 'm.contact_id = :id', { id });
  const row = found(sees ? await ctx.store.contacts.one({ id }) : undefined, 'contact');
  const [contact] = await withIdentities(ctx, [row]);
  return contact as ContactView;
}

async function withIdentities(ctx: AppContext, rows: readonly ContactRow[]): Promise<ContactView[]> {
  const ids = rows.map(({ id }) => id);
  const [identities, consents] = await Promise.all([
    ctx.store.identities.allBy('contact_id', ids),
    ctx.store.contactConsents.allBy('contact_id', ids),
  ]);
  return rows.map((row) => ({
    ...row,
    identities: identities
      .filter(({ contact_id }) => contact_id === row.id)
      .map(({ kind, value }) => ({ kind, value })),
    consents: consents.filter(({ contact_id }) => contact_id === row.id),
  }));
}
