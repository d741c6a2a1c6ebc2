/** Replacing the sealing key while everything runs: all that is sealed is sealed again, row by row. */
import { addKey, dropFormerKeys } from '../../store/sealing';
import { type Actor, type AppContext, OperationError, recordAudit, requireRole } from '../context';

/** A sealed text within another one: a column of its own, or somewhere in a document. */
const SEALED = /v1\.[\w-]{16}\.[\w-]{20,}|v2\.[0-9a-f]{8}\.[\w-]{16}\.[\w-]{20,}/g;

interface SealedColumn {
  table: string;
  column: string;
}

/** Columns that hold sealed texts, by their names; documents that may. Read from the database, so that none is forgotten. */
async function sealedColumns(ctx: AppContext): Promise<SealedColumn[]> {
  return ctx.store.select<SealedColumn>(
    `SELECT m.name AS "table", p.name AS "column" FROM sqlite_master m JOIN pragma_table_info(m.name) p
      WHERE m.type = 'table' AND (p.name LIKE 'sealed%' OR p.name = 'provider_token'
        OR (m.name IN ('settings', 'sign_in_steps') AND p.name = 'value')) ORDER BY 1, 2`,
  );
}

export interface Resealed {
  rows: number;
  /** Sealed with a key that is not there: nobody can open it any more. */
  lost: string[];
}

/** Seals everything again that the present key did not seal. What is written meanwhile is sealed with it already. */
export async function resealAll(ctx: AppContext, actor: Actor): Promise<Resealed> {
  requireRole(actor, 'owner');
  const lost: string[] = [];
  let rows = 0;
  for (const { table, column } of await sealedColumns(ctx)) {
    const found = await ctx.store.select<{ rowid: number; text: string }>(
      `SELECT rowid, "${column}" AS text FROM "${table}" WHERE "${column}" LIKE '%v1.%' OR "${column}" LIKE '%v2.%'`,
    );
    for (const { rowid, text } of found) {
      const next = reseal(ctx, text);
      if (next === undefined) lost.push(`${table}.${column} ${rowid}`);
      else if (next !== text) {
        // Only what still stands there: somebody may have replaced it in between.
        rows += await ctx.store.write((unit) =>
          unit.execute(`UPDATE "${table}" SET "${column}" = :next WHERE rowid = :rowid AND "${column}" = :text`, {
            next,
            rowid,
            text,
          }),
        );
      }
    }
  }
  const summary = `Sealed ${rows} secrets again with the present key`;
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), { action: 'sealing-key.used', subject: 'sealing-key', summary }),
  );
  return { rows, lost };
}

/** The text with all that is sealed within it sealed anew; undefined where something opens with no key that is there. */
function reseal({ sealer }: AppContext, text: string): string | undefined {
  try {
    return text.replaceAll(SEALED, (sealed) => (sealer.isPresent(sealed) ? sealed : sealer.seal(sealer.open(sealed))));
  } catch {
    return undefined;
  }
}

/** How many rows hold something that the present key did not seal. */
export async function sealedBefore(ctx: AppContext, actor: Actor): Promise<number> {
  requireRole(actor, 'owner');
  let rows = 0;
  for (const { table, column } of await sealedColumns(ctx)) {
    const found = await ctx.store.select<{ text: string }>(
      `SELECT "${column}" AS text FROM "${table}" WHERE "${column}" LIKE '%v1.%' OR "${column}" LIKE '%v2.%'`,
    );
    rows += found.filter(({ text }) =>
      (text.match(SEALED) ?? []).some((sealed) => !ctx.sealer.isPresent(sealed)),
    ).length;
  }
  return rows;
}

/** Puts a new key before the present one. */
export async function replaceKey(ctx: AppContext, actor: Actor, keyFile: string): Promise<{ id: string }> {
  requireRole(actor, 'owner');
  const { id } = addKey(keyFile);
  const summary = `The sealing key is ${id} from now on`;
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), { action: 'sealing-key.replaced', subject: 'sealing-key', summary }),
  );
  return { id };
}

/** Takes the former keys away; throws while anything is sealed with one of them. Returns how many they were. */
export async function retireKeys(ctx: AppContext, actor: Actor, keyFile: string): Promise<number> {
  requireRole(actor, 'owner');
  const left = await sealedBefore(ctx, actor);
  if (left > 0)
    throw new OperationError(
      'conflict',
      `${left} rows hold what a former key sealed. Run this without --retire first.`,
    );
  const gone = dropFormerKeys(keyFile);
  const summary = `Took ${gone} former sealing keys away`;
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), { action: 'sealing-key.retired', subject: 'sealing-key', summary }),
  );
  return gone;
}
