/** What every page about one app's automations begins with. */
import 'server-only';
import { countryChoices, displayAddress } from '../../../../core/addresses/display';
import { nameApp } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { hasRole } from '../../../../operations/context';
import { orNotFound } from '../../../_server/orNotFound';
import { signedIn } from '../../../_server/session';

export async function appContext(params: Promise<{ id: string }>) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const app = await orNotFound(nameApp(ctx, actor, id));
  const channels = (await listChannels(ctx, actor)).map(({ channel }): [string, string] => [
    channel.id,
    `${channel.name} (${displayAddress(channel.address)})`,
  ]);
  return { ctx, actor, since, app, channels, countries: countryChoices(), admin: hasRole(actor, 'administrator') };
}
