import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { listApps } from '../../operations/apps/apps';
import { hasBench } from '../../operations/bench/bench';
import { listChannels } from '../../operations/channels/channels';
import { hasRole } from '../../operations/context/actor';
import { listConversations } from '../../operations/conversations/conversations';
import { Link } from '../../ui/primitives/Link';
import { wordsOfLength } from '../../ui/primitives/length';
import { Palette } from '../../ui/shell/Palette';
import { Rail } from '../../ui/shell/Rail';
import { ThemeSwitch } from '../../ui/shell/ThemeSwitch';
import { signedIn } from '../_server/session';
import { signOutAction } from '../sign-in/actions';

export default async function SignedInLayout({ children }: { children: ReactNode }) {
  const { ctx, actor, person } = await signedIn();
  const theme = (await cookies()).get('theme')?.value === 'dark' ? 'dark' : 'light';
  const [channels, apps, conversations] = await Promise.all([
    listChannels(ctx, actor),
    listApps(ctx, actor),
    listConversations(ctx, actor),
  ]);
  const destinations = [
    ...channels.map(({ channel }) => ({
      label: channel.name,
      kind: 'channel',
      href: `/connect/channels/${channel.id}`,
    })),
    ...apps.map(({ app }) => ({ label: app.name, kind: 'app', href: `/apps/${app.id}` })),
    ...conversations
      .slice(0, 50)
      .map((entry) => ({ label: entry.contactName, kind: 'conversation', href: `/route/conversations/${entry.id}` })),
  ];
  return (
    <div className="md:flex">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-panel focus:p-2">
        Skip to content
      </a>
      <Rail
        admin={hasRole(actor, 'administrator')}
        hidden={hasBench(ctx) ? [] : ['/prove/bench']}
        foot={
          <>
            {ctx.clock.ahead() > 0 && (
              <p className="mb-1 text-[13px] text-ochre-ink">
                <Link href="/prove/bench#clock" className="plain">
                  Clock + {wordsOfLength(ctx.clock.ahead())}
                </Link>
              </p>
            )}
            <p className="truncate text-[13px]">
              {person.name} <span className="text-soft">· {person.role}</span>
            </p>
            <div className="flex items-baseline gap-3">
              <ThemeSwitch initial={theme} />
              <form action={signOutAction}>
                <button
                  type="submit"
                  className="text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
                >
                  Sign out
                </button>
              </form>
            </div>
          </>
        }
      />
      <main id="main" className="min-w-0 flex-1 px-4 py-5 md:px-8">
        <div className="mx-auto max-w-[1240px]">{children}</div>
      </main>
      <Palette destinations={destinations} />
    </div>
  );
}
