import { notFound } from 'next/navigation';
import { hasRole } from '../../../operations/context';
import { getInstallation } from '../../../operations/shell';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { Facts, Page, Panel } from '../../../ui/primitives/layout';
import { signedIn } from '../../_server/session';
import { nameAction } from './actions';

export default async function InstallationPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) notFound();
  const { name, named, address, kind } = await getInstallation(ctx);
  return (
    <Page
      title="Installation"
      purpose="What stands at the top of every page, so that nobody takes one installation for another."
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
    </Page>
  );
}
