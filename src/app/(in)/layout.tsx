import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { wordsOfLength } from '../../core/text/length';
import { hasBench } from '../../operations/bench';
import { hasRole } from '../../operations/context';
import { getFactors, providerOffered } from '../../operations/people';
import { getAttention } from '../../operations/shell';
import { Link } from '../../ui/primitives/Link';
import { stagesFor } from '../../ui/shell/navigation';
import { Palette } from '../../ui/shell/Palette';
import { PhoneBar } from '../../ui/shell/PhoneBar';
import { Rail } from '../../ui/shell/Rail';
import { StagePages } from '../../ui/shell/StagePages';
import { ThemeSwitch } from '../../ui/shell/ThemeSwitch';
import { TopBar } from '../../ui/shell/TopBar';
import { trialMinutes } from '../_server/onTrial/trialMode';
import { signedIn } from '../_server/session';
import { themeOf } from '../_server/theme';
import { signOutAction } from '../sign-in/actions';
import { Asking } from './Asking';
import { changeAtOnceAction } from './prove/trials/actions';
import { OnTrialBar } from './prove/trials/OnTrialBar';

export default async function SignedInLayout({ children }: { children: ReactNode }) {
  const { ctx, actor, person } = await signedIn();
  const theme = themeOf(await cookies());
  const [factors, provider] = await Promise.all([getFactors(ctx, actor), providerOffered(ctx)]);
  const { unread, todos, errors, templates, aside, alerts, ...installation } = await getAttention(ctx, actor);
  const counts = { unread, todos, errors, templates, aside };
  const stages = stagesFor(hasRole(actor, 'administrator'), hasBench(ctx) ? [] : ['/prove/bench', '/prove/drills']);
  const trial = hasRole(actor, 'administrator') ? await trialMinutes() : undefined;
  const ahead = ctx.clock.ahead();
  const personal = (
    <div className="mt-1 grid justify-items-start">
      <ThemeSwitch initial={theme} />
      <Link href="/you" className="plain text-[13px] text-soft hover:text-ink hover:underline">
        Your account
      </Link>
      <form action={signOutAction}>
        <button type="submit" className="text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline">
          Sign out
        </button>
      </form>
    </div>
  );
  return (
    <div className="md:flex">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-panel focus:p-2">
        Skip to content
      </a>
      <Rail
        stages={stages}
        counts={counts}
        foot={
          <>
            <p className="truncate text-[13px]" title={`${person.name}, ${person.role}`}>
              {person.name}
            </p>
            <p className="text-[13px] text-soft">{person.role}</p>
            {personal}
          </>
        }
      />
      <div className="min-w-0 flex-1 pb-14 md:pb-0">
        <TopBar
          stages={stages}
          counts={counts}
          alerts={alerts}
          installation={installation}
          person={`${person.name}, ${person.role}`}
          foot={personal}
          {...(ahead > 0 ? { ahead: wordsOfLength(ahead) } : {})}
        />
        <StagePages stages={stages} counts={counts} />
        {trial !== undefined && <OnTrialBar minutes={trial} atOnce={changeAtOnceAction} />}
        <main id="main" className="px-4 py-5 md:px-8">
          <div className="mx-auto max-w-[1240px] min-[1800px]:max-w-[1600px]">{children}</div>
        </main>
      </div>
      <PhoneBar stages={stages} counts={counts} />
      <Palette stages={stages} />
      <Asking
        personId={person.id}
        name={person.name}
        password={factors.password}
        passkey={factors.passkeys.length > 0}
        {...(factors.provider && provider ? { provider: provider.name } : {})}
      />
    </div>
  );
}
