/** What every page about one app's automations begins with. */
import 'server-only';
import { countryChoices, displayAddress } from '../../../../core/addresses/display';
import { hasRole } from '../../../../operations/actor';
import { nameApp } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { orNotFound } from '../../../_server/orNotFound';
import { signedIn } from '../../../_server/session';

export async function appContext(params: Promise<{ id: string }>) {
  const { w, actor, since } = await signedIn();
  const { id } = await params;
  const app = await orNotFound(nameApp(w, actor, id));
  const channels = (await listChannels(w, actor)).map(({ channel }): [string, string] => [
    channel.id,
    `${channel.name} (${displayAddress(channel.address)})`,
  ]);
  return { w, actor, since, app, channels, countries: countryChoices(), admin: hasRole(actor, 'administrator') };
}
