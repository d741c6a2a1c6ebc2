/** What this installation is called, where it stands, and whether what it sends reaches real phones. */
import { hasBench } from '../bench';
import { type Actor, type AppContext, invalidText, recordAudit, requireRole } from '../context';

const SETTING = 'installation-name';
const LONGEST = 40;

export interface Installation {
  /** As somebody named it; the host of its address until then. */
  name: string;
  named: boolean;
  address: string;
  /** `test`: the simulated outside is attached to it. */
  kind: 'test' | 'live';
}

export async function getInstallation(ctx: AppContext): Promise<Installation> {
  const given = (await ctx.store.settings.one({ name: SETTING }))?.value as string | undefined;
  return {
    name: given || new URL(ctx.config.publicUrl).host,
    named: Boolean(given),
    address: ctx.config.publicUrl,
    kind: hasBench(ctx) ? 'test' : 'live',
  };
}

/** Names the installation; an empty name brings its host back. */
export async function nameInstallation(ctx: AppContext, actor: Actor, name: string): Promise<void> {
  requireRole(actor, 'administrator');
  const given = name.trim();
  if (given.length > LONGEST)
    throw invalidText('name', 'The name is too long for the top of a page.', `Use ${LONGEST} characters at most.`);
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: SETTING, value: given });
    await recordAudit(unit, actor, ctx.now(), {
      action: 'installation.named',
      subject: SETTING,
      summary: given ? `Named the installation ${given}` : 'Removed the name of the installation',
    });
  });
}
