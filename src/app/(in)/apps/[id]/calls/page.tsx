import { listPhoneSystems } from '../../../../../operations/apps/phone';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page, Section } from '../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { appContext } from '../../_parts/appContext';
import { addPhoneSystemAction } from '../../phoneActions';
import { PhoneFields } from './PhoneFields';
import { PhonePanel } from './PhonePanel';

export default async function CallsPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since, app, channels, countries, admin } = await appContext(params);
  const systems = await listPhoneSystems(ctx, actor, app.id);
  const fields = { channels, countries };
  const add = admin && (
    <DialogForm
      open="Add a telephone system"
      title="Calls that are answered with a text, or told"
      submit="Create the address"
      action={addPhoneSystemAction.bind(null, app.id)}
    >
      <PhoneFields {...fields} />
    </DialogForm>
  );
  return (
    <Page
      title={`Phone events of ${app.name}`}
      purpose={
        <>
          A telephone system of <Link href={`/apps/${app.id}`}>{app.name}</Link> posts what becomes of calls: callers
          get one text, or your people are told.
        </>
      }
      actions={systems.length > 0 && add}
    >
      <LiveRefresh since={since} topics={['app', 'run']} />
      {systems.map((view) => (
        <Section key={view.system.id} title={view.system.name} id={view.system.id}>
          <PhonePanel view={view} appName={app.name} {...fields} admin={admin} />
        </Section>
      ))}
      {systems.length === 0 && <Empty what="No telephone system posts here yet." next={add} />}
    </Page>
  );
}
