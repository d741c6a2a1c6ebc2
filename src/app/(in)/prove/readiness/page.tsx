import type { Severity } from '../../../../core/finding';
import type { ReadinessFinding } from '../../../../core/readiness/readiness';
import { listChannels } from '../../../../operations/channels';
import { hasRole } from '../../../../operations/context';
import { getReadiness } from '../../../../operations/readiness';
import { SeverityMark, severityColour } from '../../../../ui/domain/Findings';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { RemedyButton } from '../_parts/RemedyButton';
import { muteAction, unmuteAction } from './actions';

const GROUPS: [Severity, string][] = [
  ['error', 'Broken, or about to lose messages'],
  ['attention', 'Worth a look'],
  ['notice', 'Not exercised yet'],
];
export default async function ReadinessPage() {
  const { ctx, actor, since } = await signedIn();
  const { open, muted, ended, examinedAt } = await getReadiness(ctx, actor);
  const admin = hasRole(actor, 'administrator');
  const nothing = open.length === 0 && (await listChannels(ctx, actor)).length === 0;
  const worth = open.filter(({ severity }) => severity !== 'notice').length;
  return (
    <Page
      title="Readiness"
      purpose="Everything the examination of the set-up has to say, before a message is lost: what is wrong, what it endangers, what was changed, and how it is fixed."
    >
      <LiveRefresh since={since} topics={['account', 'channel', 'app', 'routes', 'template', 'readiness']} />
      <p className="mb-4" data-findings={worth}>
        {worth === 0 && nothing ? (
          'There is nothing to examine yet.'
        ) : worth === 0 ? (
          <span className="text-moss">■ Nothing is known to be wrong.</span>
        ) : (
          `${worth === 1 ? 'One finding' : `${worth} findings`} to attend to.`
        )}{' '}
        {examinedAt !== undefined && (
          <span className="text-soft">
            Examined when something changes, all of it at least every five minutes; last <Age at={examinedAt} past />.
          </span>
        )}
      </p>
      {open.length === 0 && muted.length === 0 && (
        <Empty what="Connect a provider and open a channel; what endangers their messages then stands here." />
      )}
      {GROUPS.map(([severity, title]) => {
        const findings = open.filter((finding) => finding.severity === severity);
        if (findings.length === 0) return null;
        return (
          <Section key={severity} title={title} id={severity} aside={String(findings.length)}>
            <Findings findings={findings} admin={admin} />
          </Section>
        );
      })}
      {muted.length > 0 && (
        <Section title="Muted" id="muted" aside={String(muted.length)}>
          <Findings findings={muted} admin={admin} />
        </Section>
      )}
      {ended.length > 0 && (
        <Section title="Ended in the last fourteen days" id="ended" aside={String(ended.length)}>
          <table className="w-full text-[13px]">
            <tbody>
              {ended.map((row) => (
                <tr key={row.id} className="border-t border-line align-top">
                  <td className="w-48 py-1.5 pr-3">{row.subjectName}</td>
                  <td className="py-1.5 pr-3">{row.problem}</td>
                  <td className="py-1.5 text-right whitespace-nowrap text-soft">
                    <ClockTime at={row.openedAt} /> to <ClockTime at={row.closedAt ?? row.openedAt} />
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

function Findings({ findings, admin }: { findings: readonly ReadinessFinding[]; admin: boolean }) {
  return (
    <ul className="grid gap-2">
      {findings.map((finding) => (
        <li key={finding.key}>
          <Panel className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2 px-4 py-3">
            <One finding={finding} />
            {admin && (
              <span className="flex flex-wrap items-center gap-2">
                {finding.action && !finding.mute && <RemedyButton kind={finding.action.kind} id={finding.action.id} />}
                <Muting finding={finding} />
              </span>
            )}
          </Panel>
        </li>
      ))}
    </ul>
  );
}

function One({ finding }: { finding: ReadinessFinding }) {
  const perDay = Math.round(finding.perDay);
  return (
    <div className="min-w-0 grow basis-[520px]" data-finding={finding.code} data-subject={finding.subject.name}>
      <p>
        <SeverityMark severity={finding.severity} />
        <Link href={finding.subject.href} className="font-semibold">
          {finding.subject.name}
        </Link>
        : <span className={severityColour(finding.severity)}>{finding.problem}</span>
      </p>
      <p className="mt-0.5">{finding.remedy}</p>
      <p className="mt-0.5 text-[13px] text-soft">
        {[
          perDay > 0 && `About ${perDay} ${perDay === 1 ? 'message' : 'messages'} a day go this way.`,
          finding.severity === 'error' &&
            finding.atRisk > 0 &&
            `${finding.atRisk} ${finding.atRisk === 1 ? 'has' : 'have'} been at risk so far.`,
          finding.mute && `Muted by ${finding.mute.by}: ${finding.mute.reason}`,
        ]
          .filter(Boolean)
          .join(' ')}
        {finding.since !== undefined && finding.severity !== 'notice' && (
          <>
            {' '}
            Since <ClockTime at={finding.since} />.
          </>
        )}
      </p>
      {finding.severity !== 'notice' && finding.changes.length > 0 && (
        <ul className="mt-1 text-[13px]" aria-label="Changed since it worked">
          {finding.changes.map(({ at, by, summary }) => (
            <li key={`${at} ${summary}`} className="text-soft">
              Changed <Age at={at} past />: {summary}, by {by}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Muting({ finding }: { finding: ReadinessFinding }) {
  if (finding.mute)
    return (
      <span className="flex items-center gap-2 text-[13px] text-soft">
        until <ClockTime at={finding.mute.until} />
        <ActionButton tone="quiet" action={unmuteAction.bind(null, finding.key)}>
          Speak again
        </ActionButton>
      </span>
    );
  return (
    <DialogForm
      open="Mute"
      tone="quiet"
      label={`Mute: ${finding.subject.name}`}
      title="Mute this finding"
      description={`${finding.subject.name}: ${finding.problem}`}
      submit="Mute it"
      action={muteAction.bind(null, finding.key)}
    >
      <TextField name="reason" label="Why it may wait" />
      <TextField name="days" label="For so many days" initial="7" exact />
    </DialogForm>
  );
}
