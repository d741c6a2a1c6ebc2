import { hasRole } from '../../../../operations/actor';
import { hasBench, readBench } from '../../../../operations/bench';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { signedIn } from '../../../_server/session';
import { BenchView } from './BenchView';

export const metadata = { title: 'Bench' };

export default async function BenchPage() {
  const { w, actor } = await signedIn();
  const state = hasBench(w) && hasRole(actor, 'agent') ? await readBench(w, actor).catch(() => undefined) : undefined;
  return (
    <Page
      title="Bench"
      purpose="Simulated handsets and outside services. What you do here goes over the same wires as the real thing."
    >
      {state ? (
        <BenchView initial={state} mayBreak={hasRole(actor, 'administrator')} />
      ) : (
        <Empty what="No bench answers here. It is part of the demonstration and of test installations." />
      )}
    </Page>
  );
}
