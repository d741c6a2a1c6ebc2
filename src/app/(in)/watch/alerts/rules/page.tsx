import { notFound } from 'next/navigation';
import { wayKey } from '../../../../../core/alerts/tellings';
import { listRules, listWindows, type RuleView } from '../../../../../operations/alerts';
import { listApps } from '../../../../../operations/apps';
import { listChannels } from '../../../../../operations/channels';
import { hasRole } from '../../../../../operations/context';
import { readOrganisation } from '../../../../../operations/organisation';
import { getMailAccount, listTeams } from '../../../../../operations/people';
import { statusPageSettings, viewHeartbeat } from '../../../../../operations/status';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Page, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../../_server/session';
import { addWindowAction, endWindowAction, removeRuleAction, saveRuleAction, testRuleAction } from '../actions';
import { Outside } from './Outside';
import { RuleFields } from './RuleFields';

export default async function AlertRulesPage() {
  const { ctx, actor, since } = await signedIn();
  if (!hasRole(actor, 'administrator')) notFound();
  const [rules, windows, apps, channels, { zone }, mail, allTeams, heartbeat, status] = await Promise.all([
    listRules(ctx, actor),
    listWindows(ctx, actor),
    listApps(ctx, actor),
    listChannels(ctx, actor),
    readOrganisation(ctx.store),
    getMailAccount(ctx, actor),
    listTeams(ctx, actor),
    viewHeartbeat(ctx, actor),
    statusPageSettings(ctx, actor),
  ]);
  const teams = allTeams.map(({ name }) => name);
  const appNames = apps.map(({ app }): [string, string] => [app.id, app.name]);
  const names = new Map(appNames);
  const subjects: [string, string][] = [
    ['', 'everything'],
    ...new Map(channels.map(({ account }) => [account.id, `${account.name} (account)`])),
    ...channels.map(({ channel }): [string, string] => [channel.id, channel.name]),
  ];
  return (
    <Page
      title="Alert rules"
      purpose="Each alert is told once when it has lasted, to others where nobody takes it, and once when it has ended."
      actions={
        <Link href="/watch/alerts" className="self-center text-[13px]">
          All alerts
        </Link>
      }
    >
      <LiveRefresh topics={['readiness']} since={since} />
      <Section
        title="Rules"
        id="rules"
        aside={
          <DialogForm
            open="Add a rule"
            title="A new rule"
            submit="Add the rule"
            action={saveRuleAction.bind(null, undefined)}
          >
            <RuleFields teams={teams} apps={appNames} zone={zone ?? 'UTC'} />
          </DialogForm>
        }
      >
        <Table
          caption="Rules"
          rows={rules}
          keyOf={({ id }) => id}
          columns={[
            {
              head: 'Rule',
              className: 'w-full',
              cell: (rule) => (
                <>
                  <span className="font-medium">{rule.name}</span>
                  {!rule.enabled && <span className="text-soft"> (off)</span>}
                  <span className="block max-w-[80ch] text-[13px] text-soft">{sentenceOf(rule, names)}</span>
                </>
              ),
            },
            {
              head: 'Change',
              className: 'whitespace-nowrap text-right',
              cell: (rule) => (
                <span className="inline-flex gap-2">
                  <ActionButton action={testRuleAction.bind(null, rule.id)}>Test</ActionButton>
                  <DialogForm
                    open="Edit"
                    label={`Edit ${rule.name}`}
                    title={rule.name}
                    submit="Save the rule"
                    action={saveRuleAction.bind(null, rule.id)}
                  >
                    <RuleFields teams={teams} apps={appNames} zone={zone ?? 'UTC'} present={rule} />
                  </DialogForm>
                  <ActionButton
                    action={removeRuleAction.bind(null, rule.id)}
                    confirm={{
                      title: `Remove “${rule.name}”`,
                      consequence: 'Nobody is told by it any more. What was told stays on the alerts.',
                      go: 'Remove it',
                    }}
                  >
                    Remove
                  </ActionButton>
                </span>
              ),
            },
          ]}
        />
        <p className="mt-2 text-[13px] text-soft">
          {mail ? (
            <>
              Mail leaves through the account under <Link href="/mail">Mail</Link>.
            </>
          ) : (
            <>
              No mail leaves yet: give an account under <Link href="/mail">Mail</Link>; what lasts then is told.
            </>
          )}{' '}
          Texts leave over the channel that was last shown to send. Apps are told by a webhook that asks for alerts.
        </p>
      </Section>
      <Section
        title="Times of work"
        id="work"
        aside={
          <DialogForm
            open="Work on something"
            title="Nobody is told while you work on it"
            submit="Begin"
            action={addWindowAction}
          >
            <div className="grid gap-4">
              <SelectField name="subject" label="Of" options={subjects} />
              <TextField name="hours" label="For so many hours" initial="2" />
              <TextField name="reason" label="What is worked on" />
            </div>
          </DialogForm>
        }
      >
        {windows.length === 0 ? (
          <p className="text-soft">Nobody has said that something is worked on.</p>
        ) : (
          <Table
            caption="Times of work"
            rows={windows}
            keyOf={({ id }) => id}
            columns={[
              {
                head: 'Of',
                className: 'w-full',
                cell: ({ subject, reason, by }) => (
                  <>
                    {subject ?? 'Everything'}
                    <span className="block text-[13px] text-soft">
                      {reason} ({by})
                    </span>
                  </>
                ),
              },
              { head: 'Until', className: 'whitespace-nowrap', cell: ({ until }) => <ClockTime at={until} /> },
              {
                head: 'Change',
                className: 'text-right',
                cell: ({ id }) => <ActionButton action={endWindowAction.bind(null, id)}>End it</ActionButton>,
              },
            ]}
          />
        )}
      </Section>
      <Outside heartbeat={heartbeat} status={status} />
    </Page>
  );
}

/** A rule as one sentence. */
function sentenceOf(
  { from, team, ways, afterMinutes, quiet, escalate }: RuleView,
  apps: ReadonlyMap<string, string>,
): string {
  const list = (each: RuleView['ways']) =>
    each
      .map((way) =>
        way.by === 'app'
          ? `the app ${apps.get(way.app) ?? 'that is gone'}`
          : wayKey(way)
              .replace(/^mail team /, 'mail to team ')
              .replace(/^mail (?!to)/, 'mail to ')
              .replace(/^text /, 'text to '),
      )
      .join(', ');
  const time = (minutes: number) =>
    `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
  return [
    `${from === 'error' ? 'What is broken' : 'What is broken or at risk'}${team ? ` of the team ${team}` : ''} for ${afterMinutes} minutes: ${list(ways)}.`,
    ...(quiet
      ? [
          `Not from ${time(quiet.from)} to ${time(quiet.until)} (${quiet.zone})${quiet.butErrors ? ', unless it is broken' : ''}.`,
        ]
      : []),
    ...(escalate ? [`Where nobody takes it in ${escalate.afterMinutes} minutes: ${list(escalate.ways)}.`] : []),
  ].join(' ');
}
