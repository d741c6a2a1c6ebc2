import type { DrillLevel } from '../../../../core/drill/drills';
import { hasBench } from '../../../../operations/bench';
import { hasRole } from '../../../../operations/context';
import { type DrillView, listDrills } from '../../../../operations/diagnosis';
import { elapsedWords } from '../../../../ui/domain/elapsed';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { ActionForm, SelectField } from '../../../../ui/forms/ActionForm';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { beginAction, giveUpAction, guessAction, hintAction } from './actions';

const LEVELS: [DrillLevel, string, string][] = [
  ['first', 'Easy', 'What went wrong says so itself, in one place.'],
  ['usual', 'Medium', 'Two things have to be compared.'],
  ['hard', 'Hard', 'Everything looks well.'],
];
const LEVEL_WORDS: Record<DrillLevel, string> = { first: 'first', usual: 'usual', hard: 'hard' };

export default async function DrillsPage() {
  const { ctx, actor, since } = await signedIn();
  const { running, past, answers } = await listDrills(ctx, actor);
  const admin = hasRole(actor, 'administrator');
  return (
    <Page
      title="Drills"
      purpose="Windgap breaks something on the bench out of your sight. Find the cause with everything the installation has; time, hints and wrong answers cost points."
    >
      <LiveRefresh since={since} topics={['drill']} />
      {!hasBench(ctx) && (
        <Empty what="Drills need a bench, which is part of the demonstration and of test installations." />
      )}
      {running && <Running drill={running} answers={answers} admin={admin} />}
      {!running && admin && hasBench(ctx) && (
        <div className="mb-7 grid gap-3 md:grid-cols-3">
          {LEVELS.map(([level, title, what]) => (
            <Panel key={level} className="px-4 py-3">
              <p className="font-semibold">{title}</p>
              <p className="mt-0.5 mb-3 text-[13px] text-soft">{what}</p>
              <ActionButton action={beginAction.bind(null, level)}>Begin a drill: {title.toLowerCase()}</ActionButton>
            </Panel>
          ))}
        </div>
      )}
      {past.length > 0 && (
        <Section title="Finished drills" id="done">
          <table className="w-full text-[13px]">
            <thead className="text-left text-soft">
              <tr>
                <th className="w-20 py-1 pr-3 text-right font-normal">Points</th>
                <th className="py-1 pr-3 font-normal">Complaint</th>
                <th className="py-1 pr-3 font-normal">Cause</th>
                <th className="py-1 pr-3 font-normal">By</th>
                <th className="py-1 text-right font-normal">Duration</th>
              </tr>
            </thead>
            <tbody>
              {past.map((drill) => (
                <tr key={drill.id} className="border-t border-line align-top">
                  <td className="py-1.5 pr-3 text-right font-mono tabular-nums">
                    {drill.ending === 'found' ? drill.score : <span className="text-soft">given up</span>}
                  </td>
                  <td className="py-1.5 pr-3">{drill.complaint}</td>
                  <td className="w-[26%] py-1.5 pr-3">{drill.cause?.title}</td>
                  <td className="py-1.5 pr-3">
                    {drill.by}, <ClockTime at={drill.startedAt} />
                  </td>
                  <td className="py-1.5 text-right font-mono tabular-nums whitespace-nowrap">
                    {drill.endedAt !== undefined && elapsedWords(drill.endedAt - drill.startedAt)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      )}
    </Page>
  );
}

function Running({ drill, answers, admin }: { drill: DrillView; answers: [string, string][]; admin: boolean }) {
  return (
    <Panel className="mb-7 border-l-4 border-l-heather px-4 py-3">
      <p className="text-[13px] text-soft">
        A {LEVEL_WORDS[drill.level]} drill of {drill.by}, begun <Age at={drill.startedAt} past />
      </p>
      <p className="mt-1 text-[17px]">{drill.complaint}</p>
      <p className="mt-2 text-[13px]">
        Look with <Link href="/prove/diagnosis">Diagnosis</Link>, <Link href="/watch/messages">Messages</Link>,{' '}
        <Link href="/prove/readiness">Readiness</Link>, the providers’ consoles and the handsets of the{' '}
        <Link href="/prove/bench">bench</Link>. The fault switches are out of sight meanwhile.
      </p>
      {drill.hints.length > 0 && (
        <ol className="mt-3 grid gap-1" aria-label="Hints">
          {drill.hints.map((hint) => (
            <li key={hint} className="text-ochre-ink">
              ▲ {hint}
            </li>
          ))}
        </ol>
      )}
      {drill.wrong.length > 0 && <p className="mt-2 text-[13px] text-soft">It is not: {drill.wrong.join('; ')}.</p>}
      {admin && (
        <div className="mt-4 flex flex-wrap items-end gap-x-5 gap-y-3">
          <div className="min-w-80 grow">
            <ActionForm action={guessAction} submit="That is the cause">
              <SelectField name="cause" label="The cause" options={[['', 'Choose'], ...answers]} />
            </ActionForm>
          </div>
          <div className="flex gap-2">
            {drill.hintsLeft > 0 && <ActionButton action={hintAction}>A hint ({drill.hintsLeft} left)</ActionButton>}
            <ActionButton tone="quiet" action={giveUpAction}>
              Give up
            </ActionButton>
          </div>
        </div>
      )}
    </Panel>
  );
}
