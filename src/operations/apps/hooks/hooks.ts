/** Send hooks: addresses Windgap gives to apps. A record posted there becomes a message. */
import { randomBytes } from 'node:crypto';
import { newWebhookSecret } from '../../../core/signing/standardWebhooks';
import { newId } from '../../../store/ids';
import type { HookGuard, SendHookRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  newToken,
  requireConfirmed,
  requireReached,
  requireRole,
} from '../../context';
import { beginProofs } from '../../proofs';
import { noteAutomation } from '../../runs';
import { type HookInput, readMessage } from './hookMessage';

export const HOOK_HOPS = ['call-in'] as const;

/** `/hooks/` name `-` token: the name so that a pasted address can be recognised, the token because it cannot be guessed. */
export function hookUrl(ctx: AppContext, hook: Pick<SendHookRow, 'slug' | 'token'>): string {
  return `${ctx.config.publicUrl}/hooks/${hook.slug}-${hook.token}`;
}

export async function createHook(
  ctx: AppContext,
  actor: Actor,
  input: { appId: string; name: string },
): Promise<{ id: string; url: string }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await requireReached(ctx.store, actor, 'app', input.appId);
  const app = found(await ctx.store.apps.one({ id: input.appId }), 'app');
  const at = ctx.now();
  const id = newId('hok', at);
  const address = newToken(input.name, 'hook');
  const cut = address.lastIndexOf('-');
  const slug = address.slice(0, cut);
  const token = address.slice(cut + 1);
  await ctx.store.write(async (unit) => {
    const name = await readName(unit, app.id, input.name);
    await unit.hooks.insert([
      {
        id,
        app_id: app.id,
        name,
        slug,
        token,
        text: '',
        phone_field: '',
        audience_id: null,
        country: null,
        sender: null,
        media_field: null,
        tags: [],
        template: null,
        guard: 'address',
        sealed_secret: null,
        created_at: at,
        changed_at: at,
        disabled_at: null,
        disabled_why: null,
      },
    ]);
    await beginProofs(unit, id, HOOK_HOPS, at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: app.id },
      { action: 'hook.created', summary: `${app.name} gets the send hook “${name}”` },
    );
  });
  return { id, url: hookUrl(ctx, { slug, token }) };
}

async function readName(unit: Unit, appId: string, text: string, own?: string): Promise<string> {
  const name = text.trim();
  if (!name) throw invalidText('name', 'The send hook has no name.', 'Say what it sends, such as “Booking confirmed”.');
  const same = await unit.hooks.one({ app_id: appId, name });
  if (same && same.id !== own)
    throw invalidText('name', `This app has a send hook called ${name} already.`, 'Choose another name.');
  return name;
}

/** Who gets it is known, and so is the number it leaves from. */
async function requireAudience(unit: Unit, id: string, { sender, mediaField }: HookInput): Promise<string> {
  if (!(await unit.audiences.one({ id })))
    throw invalidText('phoneField', 'The audience was removed.', 'Choose another.');
  if (sender.by !== 'channel')
    throw invalidText('sender', 'To an audience it leaves from one channel.', 'Choose the channel.');
  if (mediaField) throw invalidText('mediaField', 'A broadcast carries no file.', 'Choose no file.');
  return id;
}

export async function changeHook(ctx: AppContext, actor: Actor, id: string, input: HookInput): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    await requireReached(unit, actor, 'app', before.app_id);
    const message = await readMessage(unit, input);
    const audience_id = input.audience ? await requireAudience(unit, input.audience, input) : null;
    const name = await readName(unit, before.app_id, input.name, id);
    await unit.hooks.change({ id }, { ...message, audience_id, name, changed_at: at });
    await noteAutomation(unit, actor, at, before, {
      action: 'hook.changed',
      summary: `Changed the send hook “${name}”`,
      touches: HOOK_HOPS,
      note: 'its message was changed',
    });
  });
}

/** How the app shows that it is the one. The secret or token is answered this once. */
export async function guardHook(
  ctx: AppContext,
  actor: Actor,
  id: string,
  guard: HookGuard,
): Promise<{ secret: string | undefined }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  const secret =
    guard === 'signature' ? newWebhookSecret() : guard === 'token' ? randomBytes(24).toString('base64url') : undefined;
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.hooks.change({ id }, { guard, sealed_secret: secret ? ctx.sealer.seal([secret]) : null });
    const words = { address: 'its address alone', token: 'a token', signature: 'a signature' }[guard];
    await noteAutomation(unit, actor, at, before, {
      action: 'hook.guarded',
      summary: `“${before.name}” is now guarded by ${words}`,
      touches: HOOK_HOPS,
      note: 'how it is guarded was changed',
    });
  });
  return { secret };
}

/** A hook that is switched off answers 410 with the reason, so that the app's people learn it where they look. */
export async function switchHook(ctx: AppContext, actor: Actor, id: string, on: boolean, why = ''): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.hooks.change({ id }, { disabled_at: on ? null : at, disabled_why: on ? null : why.trim() || null });
    const summary = `Switched the send hook “${before.name}” ${on ? 'on' : 'off'}`;
    await noteAutomation(unit, actor, at, before, {
      action: on ? 'hook.on' : 'hook.off',
      summary: summary,
      touches: HOOK_HOPS,
      note: on ? 'it was switched on' : 'it was switched off',
    });
  });
}
