import type { SheetView } from '../../../../../operations/apps/sheets';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Age } from '../../../../../ui/primitives/Time';
import { decideHeldRowsAction, holdJumpsAction } from '../../sheetActions';

type Sheet = SheetView['sheet'];
type HeldRows = NonNullable<Sheet['held']>;

/** New rows that are not sent until somebody says what they are: how many, why, which, and the two answers. */
export function HeldRowsNotice({ sheet, held, admin }: { sheet: Sheet; held: HeldRows; admin: boolean }) {
  const rows = held.rows === 1 ? '1 row' : `${held.rows} rows`;
  return (
    <section aria-label={`Rows of ${sheet.name} that are held`} className="mb-3 border-ochre border-l-4 py-1 pl-3">
      <p className="font-medium text-ochre-ink">
        {held.rows === 1 ? '1 new row is held and not sent' : `${held.rows} new rows are held and not sent`}
      </p>
      <p className="mt-1 text-[13px]">
        Held <Age at={held.at} past />. {whyHeld(held)} They may be old rows that were changed. The first of them:
      </p>
      <ul className="mt-1 text-[13px]">
        {firstWords(held).map((words) => (
          <li key={words} className="truncate">
            <code>{words}</code>
          </li>
        ))}
      </ul>
      {admin ? (
        <div className="mt-2 flex flex-wrap gap-2">
          <ActionButton action={decideHeldRowsAction.bind(null, sheet.id, 'known', held.print)} tone="primary">
            They are old: do not send
          </ActionButton>
          <ActionButton
            action={decideHeldRowsAction.bind(null, sheet.id, 'send', held.print)}
            confirm={{
              title: `Send ${rows}?`,
              consequence: `Each of them becomes a message now. This cannot be undone.`,
              go: `Send ${rows}`,
            }}
          >
            They are new: send them
          </ActionButton>
        </div>
      ) : (
        <p className="mt-1 text-[13px] text-soft">An administrator decides whether they are sent.</p>
      )}
    </section>
  );
}

function firstWords({ samples }: HeldRows): string[] {
  return [...new Set(samples.map((record) => Object.values(record).map(String).join(' · ')))].slice(0, 3);
}

function whyHeld({ why, lost }: HeldRows): string {
  if (why === 'columns')
    return `The ${lost.length === 1 ? 'column' : 'columns'} ${lost.map((name) => `“${name}”`).join(', ')}, by which rows were recognised, ${lost.length === 1 ? 'is' : 'are'} no longer there.`;
  if (why === 'replaced') return 'Most of the known rows are gone, and as many new ones came at the same time.';
  return 'Far more rows are new at once than is usual for this sheet.';
}

/** By what rows are recognised, and whether unusually many new ones are held. */
export function ToldApart({ sheet, admin }: { sheet: Sheet; admin: boolean }) {
  const columns = (sheet.identity ?? []).map(({ called }) => `“${called}”`).join(', ');
  const holds = sheet.holdsJumps === 1;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2 text-[13px] text-soft">
      <span>
        A row is recognised by {columns}: a row equal in these is sent once.{' '}
        {holds
          ? 'Unusually many new rows at once are held until somebody decides.'
          : 'All new rows are sent at once, however many.'}
      </span>
      {admin && (
        <ActionButton action={holdJumpsAction.bind(null, sheet.id, !holds)}>
          {holds ? 'Never hold rows' : 'Hold unusually many rows'}
        </ActionButton>
      )}
    </div>
  );
}
