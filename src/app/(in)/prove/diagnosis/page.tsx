import { isObservation } from '../../../../core/diagnosis/observations';
import { isSymptom, SYMPTOMS, type Symptom } from '../../../../core/diagnosis/symptoms';
import { listApps } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { type Actor, type AppContext, hasRole } from '../../../../operations/context';
import { type Answer, diagnoseComplaint } from '../../../../operations/diagnosis';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { Asking } from './Asking';
import { Cause, Ranking } from './Cause';
import { ScopeForm } from './ScopeForm';

type Query = Record<string, string | string[] | undefined>;

const one = (value: string | string[] | undefined) => (Array.isArray(value) ? value[0] : value) || undefined;

function answersOf(value: string | string[] | undefined): Record<string, Answer> {
  const given = Array.isArray(value) ? value : value ? [value] : [];
  return Object.fromEntries(
    given.flatMap((entry): [string, Answer][] => {
      const [id = '', answer = ''] = entry.split(':');
      return isObservation(id) && ['yes', 'no', 'unknown'].includes(answer) ? [[id, answer as Answer]] : [];
    }),
  );
}

export default async function DiagnosisPage({ searchParams }: { searchParams: Promise<Query> }) {
  const { ctx, actor, since } = await signedIn();
  const query = await searchParams;
  const symptom = one(query.symptom);
  const scope = { channel: one(query.channel), app: one(query.app), phone: one(query.phone)?.replace(/[^\d+]/g, '') };
  const [channels, apps] = await Promise.all([listChannels(ctx, actor), listApps(ctx, actor)]);
  const admin = hasRole(actor, 'administrator');
  const choices = {
    channels: channels.map(({ channel }): [string, string] => [channel.id, channel.name]),
    apps: apps.map(({ app }): [string, string] => [app.id, app.name]),
  };
  return (
    <Page
      title="Diagnosis"
      purpose="From what somebody complains of to the cause and the fix. Windgap looks at the evidence it has, asks what only people know, and tests what can be tested."
    >
      <ScopeForm symptom={symptom} scope={scope} {...choices} />
      {isSymptom(symptom) ? (
        <>
          <LiveRefresh since={since} topics={['account', 'channel', 'app', 'routes', 'readiness']} />
          <Outcome
            ctx={ctx}
            actor={actor}
            symptom={symptom}
            scope={scope}
            answers={answersOf(query.a)}
            query={query}
            admin={admin}
          />
        </>
      ) : (
        <Symptoms scope={scope} />
      )}
    </Page>
  );
}

async function Outcome({
  ctx,
  actor,
  symptom,
  scope,
  answers,
  query,
  admin,
}: {
  ctx: AppContext;
  actor: Actor;
  symptom: Symptom;
  scope: { channel?: string; app?: string; phone?: string };
  answers: Record<string, Answer>;
  query: Query;
  admin: boolean;
}) {
  const view = await diagnoseComplaint(ctx, actor, { symptom, scope, answers });
  return (
    <div data-verdict={view.verdict}>
      {view.verdict === 'determined' && view.cause && <Cause cause={view.cause} admin={admin} />}
      {view.verdict === 'undetermined' && (
        <Panel className="mb-6 border-l-4 border-l-ochre px-4 py-3">
          <p className="font-semibold">Not determined</p>
          <p className="mt-0.5">
            {view.remaining.length === 0
              ? 'Nothing Windgap knows of explains this.'
              : 'What it knows does not tell the causes below apart.'}{' '}
            {view.wouldTell.length > 0 && <>This would tell: {view.wouldTell.join(' ')}</>}
          </p>
        </Panel>
      )}
      {view.verdict === 'open' && (
        <Asking here={addressOf(query)} scope={scope} question={view.question} test={view.test} admin={admin} />
      )}
      {view.also.length > 0 && (
        <Section title="Wrong as well" id="also">
          <Ranking causes={view.also} />
        </Section>
      )}
      {view.verdict !== 'determined' && view.remaining.length > 0 && (
        <Section title="Still possible" id="possible" aside="Likeliest first">
          <Ranking causes={view.remaining} shares />
        </Section>
      )}
      {view.ruledOut.length > 0 && (
        <details id="ruled-out" className="mb-7">
          <summary className="cursor-pointer text-[15px] font-semibold">Ruled out, and why</summary>
          <Ranking causes={view.ruledOut} against />
        </details>
      )}
    </div>
  );
}

function addressOf(query: Query): string {
  const search = new URLSearchParams();
  for (const [name, value] of Object.entries(query))
    for (const each of Array.isArray(value) ? value : [value]) if (each) search.append(name, each);
  return `/prove/diagnosis?${search}`;
}

function Symptoms({ scope }: { scope: Record<string, string | undefined> }) {
  const rest = Object.entries(scope)
    .flatMap(([name, value]) => (value ? [`&${name}=${encodeURIComponent(value)}`] : []))
    .join('');
  return (
    <ul className="grid gap-2 md:grid-cols-2" aria-label="What is wrong">
      {(Object.keys(SYMPTOMS) as Symptom[]).map((id) => (
        <li key={id}>
          <Panel className="px-4 py-3">
            <Link href={`/prove/diagnosis?symptom=${id}${rest}`} className="font-semibold">
              {SYMPTOMS[id].title}
            </Link>
            <p className="mt-0.5 text-[13px] text-soft">{SYMPTOMS[id].means}</p>
          </Panel>
        </li>
      ))}
    </ul>
  );
}
