import { countryName } from '../../../../../core/addresses/display';
import { STATE_WORDS } from '../../../../../core/broadcast/course';
import { testPhones } from '../../../../../operations/bench';
import {
  type BroadcastPageView,
  getBroadcastPage,
  listRecipients,
  listTags,
  previewBroadcast,
} from '../../../../../operations/broadcasts';
import { listChannels } from '../../../../../operations/channels';
import { listAudiences } from '../../../../../operations/contacts';
import { type Actor, hasRole } from '../../../../../operations/context';
import { offeredTemplates } from '../../../../../operations/templates';
import { formatMoney } from '../../../../../ui/domain/money';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import {
  approveBroadcastAction,
  cancelBroadcastAction,
  copyBroadcastAction,
  holdBroadcastAction,
  removeBroadcastAction,
  resendBroadcastAction,
  resumeBroadcastAction,
  sendBackAction,
} from '../actions';
import { BroadcastState } from '../BroadcastState';
import { ProgressBar } from '../ProgressBar';
import { BroadcastEditor } from './BroadcastEditor';
import { CourseChart } from './CourseChart';
import { readRecipientFilter } from './filter';
import { ListForm } from './ListForm';
import { PlanView } from './PlanView';
import { Recipients } from './Recipients';
import { ShowForm, StartForm } from './StartForms';
import { sentenceOf } from './sentence';

interface Props {
  params: Promise<{ id: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

/** One page that is the draft, the plan, the live view and the result by turns. */
export default async function BroadcastPage({ params, searchParams }: Props) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const given = await searchParams;
  const page = await orNotFound(getBroadcastPage(ctx, actor, id));
  const { broadcast, plan, planned, progress } = page;
  const filter = readRecipientFilter(given);
  const writing = broadcast.state === 'draft' || broadcast.state === 'planning';
  const [channels, audiences, templates, tags, phones, previews, list] = await Promise.all([
    listChannels(ctx, actor),
    listAudiences(ctx, actor),
    offeredTemplates(ctx, actor),
    listTags(ctx, actor),
    writing ? testPhones(ctx) : [],
    writing && planned ? previewBroadcast(ctx, actor, id) : [],
    planned || !writing
      ? listRecipients(ctx, actor, id, filter, { after: Number(given.after) || 0 })
      : { recipients: [], next: undefined },
  ]);
  const channelNames = new Map(channels.map(({ channel }) => [channel.id, channel.name]));
  const named = {
    channels: channels.map(({ channel, answered }): [string, string] => [
      channel.id,
      answered ? channel.name : `${channel.name}, which cannot be answered`,
    ]),
    audiences: audiences.map((audience): [string, string] => [audience.id, audience.name]),
    templates,
    listLines: page.listLines,
  };
  return (
    <Page
      title={broadcast.name}
      purpose={<BroadcastState state={broadcast.state} />}
      actions={<Actions page={page} actor={actor} phones={phones} />}
    >
      <LiveRefresh since={since} topics={['broadcast', 'message']} />
      {page.held && broadcast.state === 'held' && <Held held={page.held} />}
      {broadcast.state === 'approval' && (
        <p role="status" className="mb-4 rounded border border-ochre px-3 py-2">
          ▲ {broadcast.startedByName} asks for approval: somebody else has to look at it.
        </p>
      )}
      {page.broadcast.planProblem && (
        <p role="alert" className="mb-4 rounded border border-clay px-3 py-2 text-clay">
          ■ {page.broadcast.planProblem}
        </p>
      )}
      {broadcast.state === 'planning' && (
        <p role="status" className="mb-4 rounded border border-line-strong px-3 py-2">
          ◌ It is being planned: {progress.people.toLocaleString('en')} people so far.
        </p>
      )}
      {!writing && (
        <>
          <p className="mb-4 text-[15px]" data-sentence>
            {sentenceOf(broadcast.definition, named)
              .map(({ words }) => words)
              .join('')}
          </p>
          <Course page={page} />
        </>
      )}
      {writing && plan && planned && (
        <PlanView plan={plan} page={page} channelNames={channelNames} previews={previews} />
      )}
      {writing && (
        <BroadcastEditor
          key={id}
          id={id}
          version={broadcast.version}
          name={broadcast.name}
          definition={broadcast.definition}
          channels={named.channels}
          audiences={named.audiences}
          tags={tags}
          templates={templates}
          fields={page.fields}
          people={page.people}
          listLines={page.listLines}
          list={<ListForm id={id} version={broadcast.version} lines={page.listLines} />}
          mayChange={page.may.prepare}
        />
      )}
      {(planned || !writing) && (
        <div className="mt-7">
          <Recipients
            id={id}
            filter={filter}
            recipients={list.recipients}
            next={list.next}
            channelNames={channelNames}
            countries={page.countries.flatMap(({ country }) => (country ? [country] : []))}
            channels={broadcast.definition.channels}
            answers={progress.pressed.map(({ label }) => label)}
            mayExport={hasRole(actor, 'administrator')}
          />
        </div>
      )}
    </Page>
  );
}

function Actions({
  page,
  actor,
  phones,
}: {
  page: BroadcastPageView;
  actor: Actor;
  phones: readonly { number: string; owner: string }[];
}) {
  const { broadcast, plan, planned, path, wantsApproval, may } = page;
  const { id, version, state } = broadcast;
  const cost = plan
    ? Object.entries(plan.cost.micros)
        .map(([currency, micros]) => formatMoney(micros, currency))
        .join(' and ')
    : '';
  const cancel = (
    <ActionButton
      tone="danger"
      action={cancelBroadcastAction.bind(null, id)}
      confirm={{
        title: `Cancel ${broadcast.name}?`,
        consequence: 'Whoever has not got it will not get it. What has left has left.',
        go: 'Cancel the broadcast',
      }}
    >
      Cancel the broadcast
    </ActionButton>
  );
  if (!hasRole(actor, 'agent')) return null;
  if (state === 'draft')
    return (
      <>
        {planned && plan && plan.going > 0 && (
          <>
            <ShowForm id={id} phones={phones.map(({ number, owner }) => [number, `${owner}, ${number}`])} />
            {may.start && (
              <StartForm
                id={id}
                version={version}
                going={plan.going}
                cost={cost ? `It costs ${cost}.` : 'What it costs is not known.'}
                unproven={path?.words}
                shown={broadcast.shownTo !== null}
                wantsApproval={wantsApproval}
              />
            )}
          </>
        )}
        <ActionButton
          tone="danger"
          action={removeBroadcastAction.bind(null, id)}
          confirm={{
            title: `Remove ${broadcast.name}?`,
            consequence: 'The draft and its list are gone.',
            go: 'Remove it',
          }}
        >
          Remove
        </ActionButton>
      </>
    );
  return (
    <>
      {state === 'approval' && may.approve && (
        <>
          <ActionButton tone="primary" action={approveBroadcastAction.bind(null, id, version)}>
            Approve
          </ActionButton>
          <ActionButton action={sendBackAction.bind(null, id, version)}>Back to a draft</ActionButton>
        </>
      )}
      {state === 'scheduled' && may.start && (
        <ActionButton action={sendBackAction.bind(null, id, version)}>Back to a draft</ActionButton>
      )}
      {(state === 'running' || state === 'scheduled') && (
        <ActionButton tone="primary" action={holdBroadcastAction.bind(null, id)}>
          Hold
        </ActionButton>
      )}
      {state === 'held' && may.start && (
        <ActionButton tone="primary" action={resumeBroadcastAction.bind(null, id, version)}>
          Resume
        </ActionButton>
      )}
      {['approval', 'scheduled', 'running', 'held'].includes(state) && cancel}
      {(state === 'finished' || state === 'cancelled') && (
        <>
          {page.passing > 0 && (
            <ActionButton action={resendBroadcastAction.bind(null, id)}>
              {`Again to the ${page.passing.toLocaleString('en')} it missed`}
            </ActionButton>
          )}
          <ActionButton action={copyBroadcastAction.bind(null, id)}>Copy</ActionButton>
        </>
      )}
    </>
  );
}

function WaitsFor({ waiting: { for: what, until, most } }: { waiting: NonNullable<BroadcastPageView['waiting']> }) {
  return (
    <p role="status" className="mt-2 text-[13px]">
      ◌{' '}
      {what === 'allowance'
        ? `All ${most?.toLocaleString('en')} conversations it may begin in a day are begun; it goes on at `
        : 'Nothing is due at the moment; the next leaves at '}
      <ClockTime at={until} />.
    </p>
  );
}

function Held({ held }: { held: NonNullable<BroadcastPageView['held']> }) {
  return (
    <div role="alert" className="mb-4 rounded border border-ochre px-3 py-2" data-held={held.code}>
      <p className="font-medium text-ochre-ink">▲ {held.problem}</p>
      <p className="text-[13px]">
        {held.remedy} Held <Age at={held.at} past />
        {held.underWay > 0
          ? `; ${held.underWay} were being handed over at that moment, so at most as many left after it.`
          : '; nothing was being handed over at that moment.'}
      </p>
    </div>
  );
}

/** What was charged, as far as that was told, against what was planned. */
function costWords({ spent, plan }: BroadcastPageView): string {
  const planned = Object.entries(plan?.cost.micros ?? {}).map(([currency, micros]) => formatMoney(micros, currency));
  const told = spent.reduce((sum, { n }) => sum + n, 0);
  const real = spent.map(({ currency, micros }) => formatMoney(micros, currency));
  return [
    real.length > 0 ? `${real.join(' and ')} for ${told.toLocaleString('en')} messages` : 'nothing told yet',
    planned.length > 0 ? `${planned.join(' and ')} planned` : 'none planned',
  ].join('; ');
}

function Course({ page }: { page: BroadcastPageView }) {
  const { broadcast, progress, failed, countries } = page;
  const reached = progress.sent + progress.delivered;
  const share = (n: number) => (reached > 0 ? `${n} (${Math.round((n / reached) * 1000) / 10} %)` : String(n));
  return (
    <>
      <Section title="Progress" id="progress" aside={STATE_WORDS[broadcast.state]}>
        <Panel className="p-4">
          <ProgressBar progress={progress} />
          {page.waiting && <WaitsFor waiting={page.waiting} />}
          {page.course.bars.length > 0 && <CourseChart {...page.course} until={page.now} />}
          <div className="mt-3">
            <Facts
              items={[
                [
                  'Started',
                  <>
                    by {broadcast.startedByName}
                    {broadcast.startedAt !== null && (
                      <>
                        , <ClockTime at={broadcast.startedAt} />
                      </>
                    )}
                    {broadcast.approvedByName && `, approved by ${broadcast.approvedByName}`}
                    {broadcast.reason && `, although its path was not proven: “${broadcast.reason}”`}
                  </>,
                ],
                ...((broadcast.state === 'running' && broadcast.phase === 'first'
                  ? [['First steps', `the first ${broadcast.definition.rules.first} are on their way alone`]]
                  : []) as [string, string][]),
                ...((broadcast.endedAt !== null ? [['Ended', <ClockTime key="end" at={broadcast.endedAt} />]] : []) as [
                  string,
                  React.ReactNode,
                ][]),
                ['Replies', share(progress.replied)],
                ...((progress.pressed.length > 0
                  ? [['Pressed', progress.pressed.map(({ label, n }) => `${label} ${n}`).join(', ')]]
                  : []) as [string, string][]),
                ['Opted out after it', share(progress.optedOut)],
                [
                  'Left out',
                  <Link
                    key="out"
                    href={`/send/broadcasts/${broadcast.id}?show=left-out#recipients`}
                  >{`${progress.leftOut}`}</Link>,
                ],
                ['Cost', costWords(page)],
              ]}
            />
          </div>
        </Panel>
      </Section>
      {failed.length > 0 && (
        <Section title={`${progress.failed} failed`} id="failed">
          <Table
            caption="What messages failed for"
            rows={failed}
            keyOf={({ code }) => code}
            columns={[
              {
                head: 'Messages',
                figures: true,
                cell: ({ code, n }) => (
                  <Link href={`/send/broadcasts/${broadcast.id}?show=failed&reason=${code}#recipients`}>
                    {String(n)}
                  </Link>
                ),
              },
              { head: 'Cause', className: 'whitespace-nowrap', cell: ({ title }) => title },
              { head: 'What to do', className: 'w-full', cell: ({ remedy }) => remedy },
            ]}
          />
        </Section>
      )}
      {countries.length > 1 && (
        <Section title="By country" id="countries">
          <Table
            caption="Outcome by country"
            rows={countries}
            keyOf={({ country }) => country}
            columns={[
              {
                head: 'Country',
                className: 'w-full',
                cell: ({ country }) => (country ? countryName(country) : 'not known'),
              },
              { head: 'People', figures: true, cell: ({ going }) => going },
              { head: 'Delivered', figures: true, cell: ({ delivered }) => delivered },
              { head: 'Failed', figures: true, cell: ({ failed: n }) => n },
            ]}
          />
        </Section>
      )}
    </>
  );
}
