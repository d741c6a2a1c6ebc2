import { drillRuns, hasBench, listScenarios, readBench } from '../../../../operations/bench';
import { hasRole } from '../../../../operations/context';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { signedIn } from '../../../_server/session';
import { BenchView } from './BenchView';
import { FAULT_WORDS, wordsOfFault } from './faultWords';

/** The switches of a scenario in words. */
function whatIsSet(faults: Record<string, Record<string, boolean | number>>, handsets: number): string {
  const words = Object.entries(faults).flatMap(([service, switches]) =>
    Object.keys(switches).map((fault) => {
      const known = FAULT_WORDS[service];
      const word = known?.groups.map(([, each]) => each[fault]).find(Boolean) ?? fault;
      return `${known?.name ?? service}: ${wordsOfFault(word).toLowerCase()}`;
    }),
  );
  return [
    ...words,
    ...(handsets > 0 ? [`${handsets} ${handsets === 1 ? 'handset' : 'handsets'} off or slow`] : []),
  ].join(', ');
}

export default async function BenchPage() {
  const { ctx, actor } = await signedIn();
  const state =
    hasBench(ctx) && hasRole(actor, 'agent') ? await readBench(ctx, actor).catch(() => undefined) : undefined;
  const [drill, scenarios] = await Promise.all([drillRuns(ctx), listScenarios(ctx, actor)]);
  return (
    <Page
      title="Bench"
      purpose="Simulated handsets and outside services. What you do here goes over the same wires as the real thing."
    >
      {state ? (
        <BenchView
          initial={drill ? { ...state, faults: {} } : state}
          mayBreak={hasRole(actor, 'administrator')}
          drill={drill}
          scenarios={scenarios.map(({ id, name, faults, handsets }) => ({
            id,
            name,
            what: whatIsSet(faults, handsets.length),
          }))}
        />
      ) : (
        <Empty what="No bench answers here. It is part of the demonstration and of test installations." />
      )}
    </Page>
  );
}
