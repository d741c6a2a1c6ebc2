import type { CauseView } from '../../../../operations/diagnosis';
import { Link } from '../../../../ui/primitives/Link';
import { Panel } from '../../../../ui/primitives/layout';
import { RemedyButton } from '../_parts/RemedyButton';
import { ReportButtons } from './Handing';

/** What it is, why Windgap thinks so, and what to do about it. */
export function Cause({
  cause,
  likely,
  admin,
  here,
}: {
  cause: CauseView;
  likely: boolean;
  admin: boolean;
  here: string;
}) {
  return (
    <Panel className={`mb-6 border-l-4 px-4 py-3 ${likely ? 'border-l-ochre' : 'border-l-clay'}`}>
      <p className="text-[17px] font-semibold" data-cause={cause.code}>
        {cause.title}
      </p>
      <p className="mt-1">
        {likely && (
          <span className="font-semibold">
            {cause.particular
              ? 'Likely: it was found, and does not settle it. '
              : 'Likely: nothing fits better, and nothing shows it for certain. '}
          </span>
        )}
        {cause.explanation} {cause.doubt}
        {cause.messages && ` Seen ${cause.messages.toLocaleString('en')} times.`}
      </p>
      <p className="mt-2">
        <span className="font-semibold">Fix: </span>
        {cause.remedy}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        {admin && cause.action && <RemedyButton kind={cause.action.kind} id={cause.action.id} />}
        {cause.href && <Link href={cause.href}>Open it{cause.subject ? `: ${cause.subject}` : ''}</Link>}
      </div>
      <ReportButtons here={here} />
      <Reasons reasons={cause.reasons.filter(({ factor }) => factor > 1)} title="What speaks for it" />
      <Reasons reasons={cause.reasons.filter(({ factor }) => factor < 1)} title="What speaks against it" />
    </Panel>
  );
}

function Reasons({ reasons, title }: { reasons: CauseView['reasons']; title: string }) {
  if (reasons.length === 0) return null;
  return (
    <div className="mt-3 text-[13px]">
      <p className="text-soft">{title}</p>
      <ul className="mt-0.5 grid gap-0.5">
        {reasons.slice(0, 5).map(({ said, factor, href }) => (
          <li key={said} className="flex gap-2">
            <span className="w-20 shrink-0 text-right font-mono text-xs text-soft tabular-nums">{times(factor)}</span>
            {href ? <Link href={href}>{said}</Link> : <span>{said}</span>}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** How much likelier the reason makes the cause. */
function times(factor: number): string {
  return factor >= 1 ? `${round(factor)} ×` : `÷ ${round(1 / factor)}`;
}

const round = (value: number) => (value >= 10 ? String(Math.round(value)) : value.toFixed(1));

/** Several causes, each with the strongest reason. */
export function Ranking({
  causes,
  shares = false,
  against = false,
}: {
  causes: readonly CauseView[];
  shares?: boolean;
  against?: boolean;
}) {
  return (
    <table className="w-full text-[13px]">
      <thead className="text-left text-soft">
        <tr>
          {shares && <th className="w-24 py-1 pr-3 font-normal">Share</th>}
          <th className="py-1 pr-3 font-normal">Cause</th>
          <th className="py-1 font-normal">{against ? 'Strongest reason against it' : 'Strongest reason'}</th>
        </tr>
      </thead>
      <tbody>
        {causes.map((cause) => {
          const reason = against ? cause.reasons.find(({ factor }) => factor < 1) : cause.reasons[0];
          return (
            <tr key={cause.code} className="border-t border-line align-top" data-cause={cause.code}>
              {shares && (
                <td className="py-1.5 pr-3">
                  <span className="font-mono tabular-nums">{Math.round(cause.share * 100)} %</span>
                  <span className="mt-0.5 block h-1 bg-line" aria-hidden>
                    <span className="block h-1 bg-ridge" style={{ width: `${Math.round(cause.share * 100)}%` }} />
                  </span>
                </td>
              )}
              <td className="w-[38%] py-1.5 pr-3">
                {cause.href ? <Link href={cause.href}>{cause.title}</Link> : cause.title}
              </td>
              <td className="py-1.5">{reason?.said ?? 'Nothing in particular'}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
