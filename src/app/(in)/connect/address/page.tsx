import { hasRole } from '../../../../operations/context';
import { curlFor, viewDoor } from '../../../../operations/door';
import { EvidenceBlock } from '../../../../ui/domain/EvidenceBlock';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { knockAction } from './actions';
import { STATES } from './states';

export default async function PublicAddressPage() {
  const { ctx, actor, since } = await signedIn();
  const view = await viewDoor(ctx, actor);
  const { address, door, standing, evidence, fromOutside, posts } = view;
  const admin = hasRole(actor, 'administrator');
  const state = standing && STATES[standing.state];
  return (
    <Page
      title="Public address"
      purpose="Where providers and apps reach this installation: a sealed request of its own goes out through it and has to come back whole."
    >
      <LiveRefresh topics={['door', 'inbound']} since={since} />
      <Section
        title="From this machine"
        id="from-here"
        aside={admin && <ActionButton action={knockAction}>Try it now</ActionButton>}
      >
        <Panel className="grid gap-2 p-4">
          <p className="flex flex-wrap items-baseline gap-2">
            <ProofMark state={standing ? (standing.state === 'open' ? 'proven' : 'broken') : 'unproven'} label="" />
            <code>{door}</code>
          </p>
          <p data-door={standing?.state ?? 'unknown'} className={standing?.state === 'open' ? '' : 'text-clay'}>
            {state ? state.title : 'It has not been tried yet.'}
            {standing?.said ? `: ${standing.said}.` : state ? '.' : ''}
          </p>
          {standing && (
            <p className="text-[13px] text-soft">
              Tried <Age at={standing.at} past />, in {standing.elapsedMs} ms; so since{' '}
              <ClockTime at={standing.since} />.
            </p>
          )}
          {standing && standing.state !== 'open' && <p>{state?.remedy}</p>}
          <p className="text-[13px] text-soft">
            This shows the way from this machine. Whether the way from outside is the same is shown by what comes from
            there.
          </p>
        </Panel>
        {standing && standing.state !== 'open' && evidence && <EvidenceBlock evidence={evidence} />}
      </Section>
      <Section title="From outside" id="from-outside">
        {admin && (
          <CarryValue
            label="For a shell on any other machine"
            direction="Run there; Windgap notes here that it came"
            value={curlFor(ctx, actor)}
            note="It answers in one line, which says whether it was this installation and whether the header came. The seal in it opens nothing else."
          />
        )}
        <p data-outside={fromOutside ? 'came' : 'none'} className="my-2">
          {fromOutside ? (
            <>
              It came last <Age at={fromOutside.at} past /> from {fromOutside.from}.
            </>
          ) : (
            'It has not come from anywhere yet.'
          )}
        </p>
        {posts.length > 0 && (
          <Table
            caption="What providers posted last"
            rows={posts}
            keyOf={({ channel }) => channel}
            columns={[
              {
                head: 'Channel',
                className: 'w-full',
                cell: ({ channel, name }) => <Link href={`/connect/channels/${channel}`}>{name}</Link>,
              },
              { head: 'From', className: 'whitespace-nowrap', cell: ({ from }) => from ?? '' },
              { head: 'Last taken', className: 'whitespace-nowrap', cell: ({ at }) => <Age at={at} past /> },
            ]}
          />
        )}
      </Section>
      <p className="text-[13px] text-soft">The address is {address}, as WINDGAP_PUBLIC_URL says.</p>
    </Page>
  );
}
