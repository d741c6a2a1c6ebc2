import { notFound } from 'next/navigation';
import { STATUS_WORDS, type Status } from '../../../core/installationStatus';
import { readStatusPage } from '../../../operations/status';
import { GatePage } from '../../../ui/shell/GatePage';
import { windgap } from '../../_server/windgap';

const SHAPES: Record<Status, string> = { well: '●', 'at-risk': '▲', broken: '■', 'not-known': '○' };
const COLOURS: Record<Status, string> = {
  well: 'text-moss',
  'at-risk': 'text-ochre-ink',
  broken: 'text-clay',
  'not-known': 'text-soft',
};
const OF_CHANNEL: Record<Status, string> = {
  well: 'both ways are proven',
  'at-risk': 'at risk',
  broken: 'broken',
  'not-known': 'not proven lately',
};

/** For people without an account here. */
export default async function StatusPage({ params }: { params: Promise<{ token: string }> }) {
  const { token } = await params;
  const status = await readStatusPage(await windgap(), token);
  if (!status) notFound();
  return (
    <GatePage title={status.name} purpose={status.kind === 'test' ? 'A test installation' : undefined}>
      <p className="text-[15px]" data-status={status.status}>
        <span aria-hidden className={COLOURS[status.status]}>
          {SHAPES[status.status]}{' '}
        </span>
        {status.engine ? STATUS_WORDS[status.status] : 'The engine is not running: nothing is sent'}
      </p>
      {status.channels && (
        <ul className="mt-4 divide-y divide-line border-t border-line text-[13px]">
          {status.channels.map(({ name, status: state }) => (
            <li key={name} className="flex justify-between gap-4 py-1.5">
              <span>{name}</span>
              <span className="text-soft">
                <span aria-hidden className={COLOURS[state]}>
                  {SHAPES[state]}{' '}
                </span>
                {OF_CHANNEL[state]}
              </span>
            </li>
          ))}
        </ul>
      )}
      <p className="mt-4 text-[13px] text-soft">
        As of {new Date(status.at).toISOString().slice(0, 19).replace('T', ' ')} UTC.
      </p>
    </GatePage>
  );
}
