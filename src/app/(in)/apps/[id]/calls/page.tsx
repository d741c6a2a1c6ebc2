import { countryChoices, displayAddress } from '../../../../../core/addresses/display';
import { hasRole } from '../../../../../operations/actor';
import { getApp } from '../../../../../operations/apps';
import { listChannels } from '../../../../../operations/channels';
import { listPhoneSystems } from '../../../../../operations/phoneSystems';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page, Section } from '../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { addPhoneSystemAction } from '../../phoneActions';
import { PhoneFields } from './PhoneFields';
import { PhonePanel } from './PhonePanel';

export const metadata = { title: 'Phone events' };

export default async function CallsPage({ params }: { params: Promise<{ id: string }> }) {
  const { w, actor, since } = await signedIn();
  const { id } = await params;
  const { app } = await orNotFound(getApp(w, actor, id));
  const systems = await listPhoneSystems(w, actor, id);
  const channels = (await listChannels(w, actor)).map(({ channel }): [string, string] => [
    channel.id,
    `${channel.name} (${displayAddress(channel.address)})`,
  ]);
  const fields = { channels, countries: countryChoices() };
  const admin = hasRole(actor, 'administrator');
  const add = admin && (
    <DialogForm
      open="Add a telephone system"
      title="Calls that are answered with a text, or told"
      submit="Make the address"
      action={addPhoneSystemAction.bind(null, id)}
    >
      <PhoneFields {...fields} />
    </DialogForm>
  );
  return (
    <Page
      title={`Phone events of ${app.name}`}
      purpose={
        <>
          A telephone system of <Link href={`/apps/${id}`}>{app.name}</Link> posts what becomes of calls: callers get
          one text, or your people are told.
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
