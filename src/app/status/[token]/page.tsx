import { notFound } from 'next/navigation';
import { STANDING_WORDS, type Standing } from '../../../core/standing';
import { readStatusPage } from '../../../operations/standing';
import { GatePage } from '../../../ui/shell/GatePage';
import { windgap } from '../../_server/windgap';

const SHAPES: Record<Standing, string> = { well: '●', 'at-risk': '▲', broken: '■', 'not-known': '○' };
const COLOURS: Record<Standing, string> = {
  well: 'text-moss',
  'at-risk': 'text-ochre-ink',
  broken: 'text-clay',
  'not-known': 'text-soft',
};
const OF_CHANNEL: Record<Standing, string> = {
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
      <p className="text-[15px]" data-standing={status.standing}>
        <span aria-hidden className={COLOURS[status.standing]}>
          {SHAPES[status.standing]}{' '}
        </span>
        {status.engine ? STANDING_WORDS[status.standing] : 'The engine is not running: nothing is sent'}
      </p>
      {status.channels && (
        <ul className="mt-4 divide-y divide-line border-t border-line text-[13px]">
          {status.channels.map(({ name, standing }) => (
            <li key={name} className="flex justify-between gap-4 py-1.5">
              <span>{name}</span>
              <span className="text-soft">
                <span aria-hidden className={COLOURS[standing]}>
                  {SHAPES[standing]}{' '}
                </span>
                {OF_CHANNEL[standing]}
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
