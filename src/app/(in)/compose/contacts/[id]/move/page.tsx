import Form from 'next/form';
import { WAY_WORDS } from '../../../../../../core/consent/ways';
import { IDENTITY_KINDS, type Identity, identityKind } from '../../../../../../core/identities/identityKinds';
import {
  contactAt,
  getContactPage,
  type MoveHow,
  type MovePreview,
  previewMove,
} from '../../../../../../operations/contacts';
import { requireRole } from '../../../../../../operations/context';
import { ActionForm, TextField } from '../../../../../../ui/forms/ActionForm';
import { Button } from '../../../../../../ui/primitives/Button';
import { Link } from '../../../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../../../ui/primitives/layout';
import { orNotFound } from '../../../../../_server/orNotFound';
import { signedIn } from '../../../../../_server/session';
import { moveAction } from '../addressActions';
import { previewOr } from '../previewOr';

const HOWS: [MoveHow, string, string][] = [
  [
    'split',
    'Split it off',
    'It was never theirs, or two people are one contact here. Its messages go along, to a contact of its own.',
  ],
  ['given', 'Give it to another contact', 'It was entered with the wrong one. Its messages go along.'],
  [
    'recycled',
    'Another person has it now',
    'The number or mailbox was given to somebody else. What was said stays here; they begin anew.',
  ],
];

const DO: Record<MoveHow, string> = {
  split: 'Split it off',
  given: 'Give it to that contact',
  recycled: 'Begin anew for the other person',
};

export default async function MovePage({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ kind?: string; scope?: string; value?: string; how?: string; to?: string }>;
}) {
  const { ctx, actor } = await signedIn();
  requireRole(actor, 'agent');
  const { id } = await params;
  const { scope = '', value = '', ...search } = await searchParams;
  const { contact } = await orNotFound(getContactPage(ctx, actor, id));
  const kind = IDENTITY_KINDS.find((each) => each === search.kind) ?? 'phone';
  const how = HOWS.find(([each]) => each === search.how)?.[0];
  const identity: Identity = { kind, scope, value };
  const shown = how
    ? await previewOr(async () => {
        const toId = how === 'given' ? await contactAt(ctx, actor, 'to', search.to ?? '') : undefined;
        return { toId, preview: await previewMove(ctx, actor, { identity, how, toId }) };
      })
    : undefined;
  return (
    <Page
      title={`Move ${identityKind(kind).show(value)}`}
      purpose={
        <>
          From <Link href={`/compose/contacts/${id}`}>{contact.name ?? 'a contact without a name'}</Link>. Nothing moves
          before you have seen what, and each move can be undone.
        </>
      }
    >
      <Panel className="max-w-[720px] p-4">
        <Form action={`/compose/contacts/${id}/move`} className="grid gap-3">
          <input type="hidden" name="kind" value={kind} />
          <input type="hidden" name="scope" value={scope} />
          <input type="hidden" name="value" value={value} />
          <fieldset className="grid gap-2">
            <legend className="mb-1 font-medium">What is the case</legend>
            {HOWS.map(([each, name, meaning]) => (
              <label key={each} className="flex items-baseline gap-2">
                <input type="radio" name="how" value={each} defaultChecked={(how ?? 'split') === each} />
                <span>
                  {name} <span className="block text-[13px] text-soft">{meaning}</span>
                </span>
              </label>
            ))}
          </fieldset>
          <TextField
            name="to"
            label="Phone or e-mail of the other contact"
            help="Where it is given to one."
            initial={search.to}
            exact
          />
          <div>
            <Button type="submit">Show what moves</Button>
          </div>
        </Form>
      </Panel>
      {shown && 'problem' in shown && <p className="mt-4 text-clay">■ {shown.problem}</p>}
      {how && shown && 'preview' in shown && (
        <div className="mt-6">
          <Section title="What moves" id="preview">
            <Panel className="max-w-[720px] p-4">
              <Preview preview={shown.preview} how={how} />
              <ActionForm action={moveAction.bind(null, id, { identity, how, toId: shown.toId })} submit={DO[how]}>
                <TextField name="why" label="How you know" help="It stands in the history of the address." />
              </ActionForm>
            </Panel>
          </Section>
        </div>
      )}
    </Page>
  );
}

function Preview({ preview, how }: { preview: MovePreview; how: MoveHow }) {
  const { messages, waiting, declined, ends, to, from } = preview;
  const [count, stay, go] = messages === 1 ? ['1 message', 'stays', 'goes'] : [`${messages} messages`, 'stay', 'go'];
  return (
    <ul className="mb-4 list-disc pl-5" data-preview>
      <li>
        {how === 'recycled'
          ? `${count} over it ${stay} with ${from.name}.`
          : `${count} over it ${go} to ${to?.name ?? 'a new contact'}.`}
      </li>
      <li>
        {waiting === 0
          ? 'No question or step waits for an answer.'
          : `${waiting === 1 ? 'One question or step waits' : `${waiting} questions or steps wait`} for ${from.name} and stay there.`}
      </li>
      {declined.length > 0 && (
        <li>Declined, and stays so on both sides: {declined.map((way) => WAY_WORDS[way]).join(', ')}.</li>
      )}
      {ends.length > 0 && <li>Was agreed to and ends: {ends.map((way) => WAY_WORDS[way]).join(', ')}.</li>}
    </ul>
  );
}
