import { notFound } from 'next/navigation';
import { hasRole } from '../../../operations/context';
import { viewRetention } from '../../../operations/retention';
import { getInstallation } from '../../../operations/shell';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { Facts, Page, Panel, Section } from '../../../ui/primitives/layout';
import { signedIn } from '../../_server/session';
import { nameAction, retentionAction } from './actions';

export default async function InstallationPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) notFound();
  const [{ name, named, address, kind }, retention] = await Promise.all([
    getInstallation(ctx),
    viewRetention(ctx, actor),
  ]);
  return (
    <Page
      title="Installation"
      purpose="Its name, which stands at the top of every page, and how long it keeps its own records."
    >
      <Panel className="mb-5 max-w-[560px] p-4">
        <Facts
          items={[
            ['Address', <code key="address">{address}</code>],
            [
              'Kind',
              kind === 'test'
                ? 'test: the simulated outside is attached, no real phone is reached'
                : 'live: what is sent reaches real phones',
            ],
          ]}
        />
      </Panel>
      <Panel className="max-w-[560px] p-4">
        <ActionForm action={nameAction} submit="Save">
          <TextField name="name" label="Name" initial={named ? name : ''} help="Without one its host stands there." />
        </ActionForm>
      </Panel>
      <div className="mt-6">
        <Section title="Retention" id="retention">
          <p className="mb-2 max-w-[70ch] text-soft">
            Evidence and bookkeeping are removed after so many days. Messages, contacts and the audit stay.
          </p>
          <Panel className="max-w-[820px] p-4">
            <ActionForm action={retentionAction} submit="Save retention">
              <div className="grid gap-x-6 gap-y-4 md:grid-cols-2">
                {retention.map(({ name: kept, label, help, days, usual, least }) => (
                  <TextField
                    key={kept}
                    name={kept}
                    label={`${label}, days`}
                    initial={String(days)}
                    help={`${help} Usual: ${usual}; at least ${least}.`}
                  />
                ))}
              </div>
            </ActionForm>
          </Panel>
        </Section>
      </div>
    </Page>
  );
}
