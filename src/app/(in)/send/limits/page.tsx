import { hasRole } from '../../../../operations/context';
import { type LiftView, type LimitView, viewLimits } from '../../../../operations/limits';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { ActionForm, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { endLiftAction, liftAction, limitsAction } from './actions';

export default async function LimitsPage() {
  const { ctx, actor, since } = await signedIn();
  const { limits, stops, lifts } = await viewLimits(ctx, actor);
  const admin = hasRole(actor, 'administrator');
  return (
    <ListPage
      title="Limits"
      purpose="How much may be sent, where to and by whom, so that nobody can make you text strangers. Below: what was stopped in the last two weeks."
      page="/send/limits"
      since={since}
      topics={['limits']}
      empty={{ what: 'No limit has stopped anything in the last two weeks.' }}
      rows={stops}
      keyOf={({ key }) => key}
      after={
        <>
          {lifts.length > 0 && <Lifts lifts={lifts} admin={admin} />}
          <Section
            title="What may be sent"
            id="amounts"
            aside="An empty field is no limit. A long text counts as its parts; chats on your website do not count."
          >
            {admin ? <Amounts limits={limits} /> : <Standing limits={limits} />}
          </Section>
        </>
      }
      columns={[
        {
          head: 'Stopped',
          className: 'w-full',
          value: ({ place }) => place,
          cell: ({ place, words }) => (
            <>
              <span className="block">{place}</span>
              <span className="block text-[13px] text-soft">limit {words}</span>
            </>
          ),
        },
        {
          head: 'Sent by',
          className: 'whitespace-nowrap',
          value: ({ by }) => by,
          cell: ({ by }) => by,
        },
        {
          head: 'Messages',
          className: 'whitespace-nowrap text-right',
          value: ({ orders }) => orders,
          cell: ({ orders, held }) =>
            held ? <Link href="/watch/set-aside">{orders} held</Link> : <span>{orders} refused</span>,
        },
        {
          head: 'Last',
          className: 'whitespace-nowrap',
          value: ({ lastAt }) => lastAt,
          cell: ({ lastAt }) => <Age at={lastAt} past />,
        },
        {
          head: 'Lifted',
          className: 'whitespace-nowrap text-right',
          cell: ({ limit, subject, place, words, liftedUntil }) =>
            liftedUntil !== undefined ? (
              <span className="text-soft">
                until <ClockTime at={liftedUntil} />
              </span>
            ) : (
              admin && (
                <DialogForm
                  open="Lift"
                  label={`Lift the limit for ${place}`}
                  title={`Lift the limit for ${place}`}
                  description={`“${words}” stops nothing here for so long. Everything else stays in force, and the audit says who lifted it.`}
                  submit="Lift"
                  action={liftAction.bind(null, { limit, subject })}
                >
                  <TextField name="hours" label="Hours" initial="24" exact />
                </DialogForm>
              )
            ),
        },
      ]}
    />
  );
}

/** Of each limit the amount, beside what comes nearest to it now. */
function Amounts({ limits }: { limits: LimitView[] }) {
  return (
    <Panel className="max-w-[980px] p-4">
      <ActionForm action={limitsAction} submit="Save limits">
        <Group title="Refused beyond it" limits={limits.filter(({ rise }) => !rise)} />
        <Group title="Held beyond it, where it is unusual" limits={limits.filter(({ rise }) => rise)} />
      </ActionForm>
    </Panel>
  );
}

function Group({ title, limits }: { title: string; limits: LimitView[] }) {
  return (
    <fieldset className="mb-5">
      <legend className="mb-2 font-semibold">{title}</legend>
      <div className="grid gap-x-6 gap-y-4 md:grid-cols-2">
        {limits.map((limit) => (
          <TextField
            key={limit.name}
            name={limit.name}
            label={labelOf(limit)}
            initial={amountIn(limit)}
            help={`${limit.help}${usualIn(limit)}${nearestIn(limit)}`}
          />
        ))}
      </div>
    </fieldset>
  );
}

function labelOf({ unit, words }: LimitView): string {
  return `${unit.charAt(0).toUpperCase()}${unit.slice(1)} ${words}`;
}

function Standing({ limits }: { limits: LimitView[] }) {
  return (
    <Table
      caption="What may be sent"
      rows={limits}
      keyOf={({ name }) => name}
      columns={[
        { head: 'Limit', cell: labelOf },
        { head: 'At most', figures: true, cell: (limit) => amountIn(limit) || 'no limit' },
        { head: 'Nearest now', cell: ({ nearest }) => (nearest ? `${nearest.amount}, ${nearest.place}` : '—') },
      ]}
    />
  );
}

function amountIn({ amount, unit }: LimitView): string {
  if (amount === null) return '';
  return unit === 'money' ? (amount / 1e6).toFixed(2) : String(amount);
}

function usualIn({ usual }: LimitView): string {
  return usual === null ? '' : ` Usual: ${usual}.`;
}

function nearestIn({ nearest }: LimitView): string {
  return nearest ? ` Nearest now: ${nearest.amount}, ${nearest.place}.` : '';
}

function Lifts({ lifts, admin }: { lifts: LiftView[]; admin: boolean }) {
  return (
    <Section title="Lifted for now" id="lifts">
      <Table
        caption="Lifted for now"
        rows={lifts}
        keyOf={({ limit, subject }) => `${limit} ${subject}`}
        columns={[
          { head: 'For', cell: ({ place }) => place },
          { head: 'Limit', cell: ({ words }) => words },
          { head: 'Until', cell: ({ until }) => <ClockTime at={until} /> },
          { head: 'By', cell: ({ by }) => by },
          {
            head: 'Decision',
            cell: ({ limit, subject }) =>
              admin && <ActionButton action={endLiftAction.bind(null, { limit, subject })}>End it now</ActionButton>,
          },
        ]}
      />
    </Section>
  );
}
