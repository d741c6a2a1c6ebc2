/** Takes an import back: what it wrote goes, what people have done since stays. */
import type { ImportLineRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, found, noteChanges, OperationError, recordAudit, requireRole } from '../context';
import { recordConsents } from './consent/consents';
import { numberOf } from './contactPages';
import { BATCH } from './importBatches';

/** Takes back what an import wrote. People who wrote or were written to since stay, without what it added. */
export async function undoImport(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<{ removed: number; kept: number }> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  let removed = 0;
  let kept = 0;
  const row = found(await ctx.store.imports.one({ id }), 'import');
  if (row.state !== 'done' && row.state !== 'cancelled')
    throw new OperationError('conflict', 'Only an import that is over can be undone.');
  for (let from = 0; ; from += BATCH) {
    const lines = await ctx.store.select<ImportLineRow>(
      `SELECT * FROM import_lines WHERE import_id = :id AND contact_id IS NOT NULL AND outcome IN ('created', 'merged') AND line > :from AND line <= :to ORDER BY line`,
      { id, from, to: from + BATCH },
    );
    if (lines.length === 0 && from > row.lines) break;
    const counts = await ctx.store.write((unit) =>
      undoBatch(unit, ctx.store.importLines.read(lines), { id, actor, at }),
    );
    removed += counts.removed;
    kept += counts.kept;
  }
  await ctx.store.write(async (unit) => {
    await unit.imports.change({ id }, { state: 'undone', ended_at: at });
    await recordAudit(unit, actor, at, {
      action: 'import.undone',
      subject: id,
      summary: `Undid the import of ${row.name}: ${removed} contacts removed, ${kept} kept`,
    });
    await noteChanges(unit, at, [['import', id]]);
  });
  return { removed, kept };
}

async function undoBatch(
  unit: Unit,
  lines: readonly ImportLineRow[],
  { id, actor, at }: { id: string; actor: Actor; at: number },
) {
  const created = lines.flatMap(({ outcome, contact_id }) => (outcome === 'created' && contact_id ? [contact_id] : []));
  const busy = new Set((await unit.conversations.allBy('contact_id', created)).map(({ contact_id }) => contact_id));
  const gone = created.filter((contact) => !busy.has(contact));
  const touched = lines.flatMap(({ contact_id }) => (contact_id ? [contact_id] : []));
  // What was claimed of them is taken back, and the ledger says so.
  const claimed = (await unit.consentEntries.allBy('contact_id', touched)).filter(
    ({ ref, what }) => ref === id && what === 'given',
  );
  const standing = new Map(
    (await unit.contactConsents.allBy('contact_id', touched)).map((row) => [
      `${row.contact_id} ${row.way}`,
      row.entry_id,
    ]),
  );
  await recordConsents(
    unit,
    claimed
      .filter((entry) => standing.get(`${entry.contact_id} ${entry.way}`) === entry.id)
      .map(({ contact_id, way }) => ({
        contact_id,
        way,
        what: 'retracted' as const,
        at,
        how: 'import' as const,
        wording: 'The import was undone.',
        by: actor.name,
        ref: id,
      })),
    { quietly: true },
  );
  for (const { outcome, contact_id, before } of lines) {
    if (outcome !== 'merged' || !contact_id || !before) continue;
    await unit.contacts.change({ id: contact_id }, { name: before.name });
    await unit.contactTags.remove({ contact_id, tag: before.tags });
    await unit.contactAttributes.remove({ contact_id, name: Object.keys(before.attributes) });
    await unit.contactAttributes.insert(
      Object.entries(before.attributes).flatMap(([name, value]) =>
        value === null ? [] : [{ contact_id, name, value, number: numberOf(value) }],
      ),
    );
  }
  for (const table of [unit.contactTags, unit.contactAttributes, unit.contactConsents, unit.identities] as const)
    await table.removeBy('contact_id', gone);
  await unit.contacts.removeBy('id', gone);
  return { removed: gone.length, kept: busy.size };
}
