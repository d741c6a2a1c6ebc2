/** What every page about one app's automations begins with. */
import 'server-only';
import { channelKind } from '../../../../core/connect/channelKinds';
import { identityKind } from '../../../../core/identities/identityKinds';
import { nameApp } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { hasRole } from '../../../../operations/context';
import { countriesOursFirst, readOrganisation } from '../../../../operations/organisation';
import { senderName } from '../../../../ui/domain/senderName';
import { orNotFound } from '../../../_server/orNotFound';
import { signedIn } from '../../../_server/session';

/**
 * Channels that what apps send by itself can go over: its people are found by telephone numbers. Those on which people can
 * answer come first, because the first is what a form begins with.
 */
export async function phoneChannels(...of: Parameters<typeof listChannels>): Promise<[string, string][]> {
  return (await listChannels(...of))
    .filter(({ channel }) => identityKind(channelKind(channel.kind).identity).telephone)
    .sort((a, b) => Number(b.answered) - Number(a.answered))
    .map((view) => [view.channel.id, senderName(view)]);
}

/** Channels that mail can leave from. */
export async function mailChannels(...of: Parameters<typeof listChannels>): Promise<[string, string][]> {
  return (await listChannels(...of))
    .filter(({ channel }) => channelKind(channel.kind).subjects)
    .map(({ channel }) => [channel.id, `${channel.name} (${channel.address})`]);
}

export async function appContext(params: Promise<{ id: string }>) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const app = await orNotFound(nameApp(ctx, actor, id));
  const channels = await phoneChannels(ctx, actor);
  const [countries, { zone }] = await Promise.all([countriesOursFirst(ctx.store), readOrganisation(ctx.store)]);
  return { ctx, actor, since, app, channels, countries, zone, admin: hasRole(actor, 'administrator') };
}
