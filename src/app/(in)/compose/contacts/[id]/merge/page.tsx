import Form from 'next/form';
import { WAY_WORDS } from '../../../../../../core/consent/ways';
import { contactAt, getContactPage, previewMerge } from '../../../../../../operations/contacts';
import { requireRole } from '../../../../../../operations/context';
import { ActionForm, TextField } from '../../../../../../ui/forms/ActionForm';
import { Button } from '../../../../../../ui/primitives/Button';
import { Link } from '../../../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../../../ui/primitives/layout';
import { orNotFound } from '../../../../../_server/orNotFound';
import { signedIn } from '../../../../../_server/session';
import { mergeAction } from '../addressActions';
import { previewOr } from '../previewOr';

export default async function MergePage({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ with?: string }>;
}) {
  const { ctx, actor } = await signedIn();
  requireRole(actor, 'agent');
  const { id } = await params;
  const { with: typed } = await searchParams;
  const { contact } = await orNotFound(getContactPage(ctx, actor, id));
  const name = contact.name ?? 'a contact without a name';
  const shown = typed
    ? await previewOr(async () =>
        previewMerge(ctx, actor, { keptId: id, goneId: await contactAt(ctx, actor, 'with', typed) }),
      )
    : undefined;
  return (
    <Page
      title={`Merge with ${name}`}
      purpose={
        <>
          Two contacts that are one person become <Link href={`/compose/contacts/${id}`}>{name}</Link>. Nothing moves
          before you have seen what, and it can be undone.
        </>
      }
    >
      <Panel className="max-w-[720px] p-4">
        <Form action={`/compose/contacts/${id}/merge`} className="grid gap-3">
          <TextField name="with" label="Phone or e-mail of the other contact" initial={typed} exact />
          <div>
            <Button type="submit">Show what moves</Button>
          </div>
        </Form>
      </Panel>
      {shown && 'problem' in shown && <p className="mt-4 text-clay">■ {shown.problem}</p>}
      {shown && 'gone' in shown && (
        <div className="mt-6">
          <Section title={`What comes from ${shown.gone.name}`} id="preview">
            <Panel className="max-w-[720px] p-4">
              <ul className="mb-4 list-disc pl-5" data-preview>
                <li>Addresses: {shown.addresses.join(', ') || 'none'}.</li>
                <li>{shown.messages === 1 ? '1 message' : `${shown.messages} messages`}, into one conversation.</li>
                <li>
                  Waiting for an answer: {shown.waiting}. To-dos: {shown.todos}.
                </li>
                <li>
                  {shown.declined.length > 0
                    ? `Declined by either, and then for both: ${shown.declined.map((way) => WAY_WORDS[way]).join(', ')}.`
                    : 'Neither declined anything. What one agreed to goes on covering their own addresses alone.'}
                </li>
              </ul>
              <ActionForm action={mergeAction.bind(null, id, shown.gone.id)} submit="Merge the two">
                <TextField name="why" label="How you know" help="Such as: she said so on the phone." />
              </ActionForm>
            </Panel>
          </Section>
        </div>
      )}
    </Page>
  );
}
