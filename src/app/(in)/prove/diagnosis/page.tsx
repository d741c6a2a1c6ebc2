import { SYMPTOMS, type Symptom } from '../../../../core/diagnosis/symptoms';
import { listApps } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { type Actor, type AppContext, hasRole } from '../../../../operations/context';
import { type Complaint, diagnoseComplaint, type Scope } from '../../../../operations/diagnosis';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { Asking } from './Asking';
import { Cause, Ranking } from './Cause';
import { MessageChoice } from './MessageChoice';
import { addressOf, complaintOf, type Query, scopeOf } from './query';
import { ScopeForm } from './ScopeForm';
import { InCommon, PlacesOnTheWay, Verdict } from './Where';

export default async function DiagnosisPage({ searchParams }: { searchParams: Promise<Query> }) {
  const { ctx, actor, since } = await signedIn();
  const query = await searchParams;
  const scope = scopeOf(query);
  const complaint = complaintOf(query);
  const [channels, apps] = await Promise.all([listChannels(ctx, actor), listApps(ctx, actor)]);
  const admin = hasRole(actor, 'administrator');
  const choices = {
    channels: channels.map(({ channel }): [string, string] => [channel.id, channel.name]),
    apps: apps.map(({ app }): [string, string] => [app.id, app.name]),
  };
  return (
    <Page
      title="Diagnosis"
      purpose="From what somebody complains of to where it is, the cause where evidence shows one, and the fix. Windgap looks at the evidence it has, asks what only people know, and tests what can be tested."
    >
      <ScopeForm symptom={complaint?.symptom} scope={scope} {...choices} />
      {complaint ? (
        <>
          <LiveRefresh since={since} topics={['account', 'channel', 'app', 'routes', 'readiness']} />
          <Outcome ctx={ctx} actor={actor} complaint={complaint} here={addressOf(query)} admin={admin} />
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
  complaint,
  here,
  admin,
}: {
  ctx: AppContext;
  actor: Actor;
  complaint: Complaint;
  here: string;
  admin: boolean;
}) {
  const view = await diagnoseComplaint(ctx, actor, complaint);
  const { verdict, cause } = view;
  const named = (verdict === 'determined' || verdict === 'likely') && cause;
  return (
    <div data-verdict={verdict}>
      <MessageChoice here={here} where={view.where} message={complaint.scope.message} asked={view.which === true} />
      {named && <Cause cause={cause} likely={verdict === 'likely'} admin={admin} here={here} />}
      {verdict === 'open' && !view.which && (
        <Asking here={here} scope={complaint.scope} question={view.question} test={view.test} admin={admin} />
      )}
      {!named && verdict !== 'open' && <Verdict view={view} here={here} admin={admin} />}
      <PlacesOnTheWay where={view.where} />
      {view.contrast && <InCommon contrast={view.contrast} />}
      {view.also.length > 0 && (
        <Section title="Wrong as well" id="also">
          <Ranking causes={view.also} />
        </Section>
      )}
      {verdict !== 'determined' && view.remaining.length > 0 && (
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

function Symptoms({ scope }: { scope: Scope }) {
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
