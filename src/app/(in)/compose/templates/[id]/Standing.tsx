import type { HitRate, Prediction } from '../../../../../core/templates/prediction';
import type { TemplatePage } from '../../../../../operations/templates';
import { StandingMark } from '../../../../../ui/compose/StandingMark';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Panel } from '../../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { checkTemplateAction, submitTemplateAction } from '../actions';

interface Props {
  id: string;
  view: TemplatePage;
  platform: string;
  prediction: Prediction;
  rate: HitRate;
  admin: boolean;
}

/** Where it stands at the platform, what that means now, and what a submission would meet. */
export function Standing({ id, view: { standing }, platform, prediction, rate, admin }: Props) {
  const { state, newest, serving, edited } = standing;
  return (
    <Panel className="mb-5 grid items-start gap-x-8 gap-y-3 p-4 lg:grid-cols-[minmax(0,1fr)_auto]">
      <div className="max-w-[70ch]">
        <p className="text-[15px]">
          <StandingMark state={state} />
          {newest && (
            <span className="text-soft">
              {' '}
              version {newest.number}, <Age at={newest.decidedAt ?? newest.submittedAt} />
            </span>
          )}
        </p>
        <p className="mt-1">{meaning(platform, standing)}</p>
        {state === 'in-review' && newest && (
          <p className="text-[13px] text-soft">
            Submitted by {newest.submittedBy} at <ClockTime at={newest.submittedAt} />
            {newest.usualMinutes !== null && <>; it usually takes {usual(newest.usualMinutes)}</>}
            {newest.nextCheckAt !== null && (
              <>
                ; {platform} is asked again <Age at={newest.nextCheckAt} />
              </>
            )}
            .
          </p>
        )}
        {newest?.filedAs && newest.filedAs !== newest.content.category && (
          <p className="text-ochre-ink">
            ▲ {platform} filed it as {newest.filedAs}, not {newest.content.category}: it is charged and may be sent as
            that.
          </p>
        )}
        {serving && serving.number !== newest?.number && <p>Version {serving.number} is approved and keeps serving.</p>}
        {edited && state !== 'in-review' && (
          <p className="text-heather">
            ◇ What is written now differs from version {newest?.number} and is not submitted.
          </p>
        )}
      </div>
      <div className="grid justify-items-start gap-2 lg:max-w-[46ch]">
        {admin && maySubmit(standing) && <Foretold prediction={prediction} rate={rate} />}
        {admin && newest && state !== 'retired' && (
          <ActionButton action={checkTemplateAction.bind(null, id)} busy="Asking…">
            Ask {platform} now
          </ActionButton>
        )}
      </div>
    </Panel>
  );
}

function maySubmit({ state, edited }: TemplatePage['standing']): boolean {
  return state !== 'in-review' && (state === 'draft' || edited || state === 'retired');
}

/** Submits what is saved; nothing where that is in review, or approved as it is. */
export function SubmitTemplate({ id, view: { standing, row }, prediction }: Pick<Props, 'id' | 'view' | 'prediction'>) {
  if (!maySubmit(standing)) return null;
  return (
    <ActionButton
      busy="Submitting…"
      action={submitTemplateAction.bind(null, id)}
      confirm={
        prediction.likelihood >= 0.5
          ? {
              title: `Submit ${row.name} as it is?`,
              consequence: `A rejection is likely (${percent(prediction.likelihood)}). Rejections are counted by the platform.`,
              go: 'Submit it',
            }
          : undefined
      }
    >
      {standing.newest ? 'Submit the new version' : 'Submit for review'}
    </ActionButton>
  );
}

function meaning(platform: string, { state, newest, serving }: TemplatePage['standing']): string {
  const said = newest?.reasons.map(({ text }) => text).join(' ');
  switch (state) {
    case 'draft':
      return `It is saved here only. ${platform} has not seen it, and it cannot be sent.`;
    case 'in-review':
      return serving
        ? `${platform} is reviewing the new version.`
        : `${platform} is reviewing it. It cannot be sent before it is approved.`;
    case 'approved':
      return 'It can be sent, also to people who have not written.';
    case 'rejected':
      return `${platform} says: ${said || 'no reason.'} Revise the text below and submit it again.`;
    case 'paused':
      return `${platform} paused it: ${said || 'no reason was given.'} Revise it and submit it again.`;
    case 'retired':
      return 'It was taken out of use. Submit it again to use it.';
  }
}

function Foretold({ prediction: { likelihood, because }, rate }: { prediction: Prediction; rate: HitRate }) {
  const likely = likelihood >= 0.5;
  const decided = rate.rejections + rate.approvals;
  return (
    <details className="text-[13px]" data-foretold={percent(likelihood)}>
      <summary className="cursor-pointer">
        Rejection {likely ? 'likely' : 'unlikely'}:{' '}
        <strong className={`tabular-nums ${likely ? 'text-clay' : 'text-moss'}`}>{percent(likelihood)}</strong>
      </summary>
      <ul className="mt-1 text-soft">
        {because.map(({ key, seen, rejected, likelihood: own }) => (
          <li key={key}>
            <code className="text-xs">{key}</code>:{' '}
            {seen === 0 ? `not met yet; taken for ${percent(own)}` : `${rejected} of ${seen} rejected here`}
          </li>
        ))}
        {because.length === 0 && <li>Nothing was found.</li>}
        <li className="mt-1">
          {decided === 0
            ? 'Nothing was submitted from here yet, so this is an assumption.'
            : `So far ${rate.foretold} of ${rate.rejections} ${rate.rejections === 1 ? 'rejection was' : 'rejections were'} foretold, with ${rate.falseAlarms} false ${rate.falseAlarms === 1 ? 'alarm' : 'alarms'} among ${rate.approvals} ${rate.approvals === 1 ? 'approval' : 'approvals'}.`}
        </li>
      </ul>
    </details>
  );
}

function percent(share: number): string {
  return `${Math.round(share * 100)} %`;
}

function usual(minutes: number): string {
  return minutes < 60 ? `${minutes} min` : `${Math.round(minutes / 60)} h`;
}
