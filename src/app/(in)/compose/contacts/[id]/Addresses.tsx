import { countryChoices } from '../../../../../core/addresses/display';
import { WAY_WORDS } from '../../../../../core/consent/ways';
import { identityKind } from '../../../../../core/identities/identityKinds';
import type { ContactPage, movesOf } from '../../../../../operations/contacts';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { addAddressAction, believeAction, undoMoveAction } from './addressActions';

const FROM: Record<ContactPage['identities'][number]['source'], string> = {
  wrote: 'they wrote from it',
  sent: 'it was written to',
  code: 'they typed the code sent to it',
  'by-hand': 'entered by hand',
  import: 'from a file',
  earlier: 'from before this was kept',
};

const WHAT: Record<ContactPage['identities'][number]['history'][number]['what'], string> = {
  added: 'First known',
  moved: 'Came from another contact',
  doubted: 'Doubted',
  believed: 'Said to be theirs',
};

/** What a contact is known by: since when, from where, when they last showed it, and what an opt-in covers. */
export function Addresses({
  contactId,
  identities,
  agent,
}: {
  contactId: string;
  identities: ContactPage['identities'];
  agent: boolean;
}) {
  return (
    <div className="mb-3 border-b border-line pb-3">
      <ul className="grid gap-3">
        {identities.map(({ kind, scope, value, since, source, provedAt, doubt, agreed, history }) => (
          <li key={`${kind} ${scope} ${value}`} className="text-[13px]" data-address={value}>
            <p className="flex flex-wrap items-baseline justify-between gap-x-3">
              <span>
                <span className="text-soft">{identityKind(kind).name}</span>{' '}
                <span className="font-mono">{identityKind(kind).show(value)}</span>
              </span>
              {agent && (
                <Link
                  href={`/compose/contacts/${contactId}/move?${new URLSearchParams({ kind, scope, value })}`}
                  aria-label={`Move ${identityKind(kind).show(value)}`}
                >
                  Move
                </Link>
              )}
            </p>
            <p className="text-soft">
              First known <Age at={since} past />: {FROM[source]}.{' '}
              {provedAt === null
                ? 'Nobody has written from it.'
                : ['Last shown to be theirs ', <Age key="at" at={provedAt} past />, '.']}
            </p>
            {agreed.length > 0 && (
              <p>
                Agreed to {agreed.map(({ way, on }) => `${WAY_WORDS[way]}${on ? ` of ${on}` : ''}`).join(', ')} over it.
              </p>
            )}
            {history.length > 1 && (
              <details>
                <summary className="cursor-pointer text-soft">What became of it</summary>
                <ol className="mt-1 grid gap-1 border-l-2 border-line pl-3">
                  {history.map(({ id, what, at, why, by }) => (
                    <li key={id}>
                      <span className="text-soft">
                        <ClockTime at={at} />, {by}:
                      </span>{' '}
                      {WHAT[what]}. {why}
                    </li>
                  ))}
                </ol>
              </details>
            )}
            {doubt && (
              <div className="text-ochre-ink" data-doubt>
                ▲ {doubt} What was agreed to over it does not count meanwhile.
                {agent && (
                  <span className="mt-1 block">
                    <ActionButton action={believeAction.bind(null, { kind, scope, value })}>
                      It is still theirs
                    </ActionButton>
                  </span>
                )}
              </div>
            )}
          </li>
        ))}
      </ul>
      {agent && (
        <div className="mt-3 flex flex-wrap gap-2">
          <DialogForm
            open="Add an address"
            title="Add an address"
            description="What this contact agreed to before does not cover it."
            submit="Add it"
            action={addAddressAction.bind(null, contactId)}
          >
            <TextField name="address" label="Phone or e-mail" exact />
            <SelectField
              name="country"
              label="A number without a country code is of"
              options={[['', 'no country: refuse it'], ...countryChoices()]}
            />
          </DialogForm>
          <Link href={`/compose/contacts/${contactId}/merge`}>Merge with another contact</Link>
        </div>
      )}
    </div>
  );
}

const MOVED = {
  split: 'split off, with its messages',
  given: 'given to another contact, with its messages',
  recycled: 'another person has it from then on',
};

/** Addresses that were moved by hand from this contact or to it. */
export function Moves({
  contactId,
  moves,
  agent,
}: {
  contactId: string;
  moves: Awaited<ReturnType<typeof movesOf>>;
  agent: boolean;
}) {
  if (moves.length === 0) return null;
  return (
    <Section title="Moved addresses" id="moves">
      <Table
        caption="Moved addresses"
        rows={moves}
        keyOf={({ id }) => id}
        columns={[
          { head: 'When', className: 'whitespace-nowrap', cell: ({ at }) => <ClockTime at={at} /> },
          {
            head: 'Address',
            className: 'whitespace-nowrap font-mono',
            cell: ({ kind, value }) => identityKind(kind).show(value),
          },
          {
            head: 'What',
            className: 'min-w-[230px]',
            cell: ({ how, fromId, toId }) => (
              <>
                {MOVED[how]}:{' '}
                <Link href={`/compose/contacts/${fromId === contactId ? toId : fromId}`}>
                  {fromId === contactId ? 'where it went' : 'where it came from'}
                </Link>
              </>
            ),
          },
          { head: 'Reason', className: 'w-full', cell: ({ why }) => why },
          { head: 'By', className: 'whitespace-nowrap', cell: ({ by }) => by },
          {
            head: '',
            cell: ({ id }) => agent && <ActionButton action={undoMoveAction.bind(null, id)}>Undo</ActionButton>,
          },
        ]}
      />
    </Section>
  );
}
