/** Many delivery tests at once beside real traffic that has the very words they wait for. */
import { SYSTEM } from '../../src/operations/context/actor';
import type { RunView } from '../../src/operations/deliveryTests/deliveryTests';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { testBench } from './deliveryTests';
import { connectMossgate, INES, postSigned, textIn } from './mossgate';
import { brackwaterProfile, type Installation, startInstallation } from './processes';

const AT_ONCE = 32;

export interface Crowd {
  rows: RunView['run'][];
  /** Whether a test with this number expects what comes; the others expect their neighbour's word. */
  right(index: number): boolean;
  wrong: RunView['run'][];
  /** At most so many were running at once. */
  overlap: number;
  /** Messages a second that were carried beside them. */
  carried: number;
  /** Milliseconds until the slowest answer was there. */
  slowest: number;
}

export function startCrowdHouse(): Promise<Installation> {
  return startInstallation({
    perSecond: 400,
    profiles: { 'wide.yaml': brackwaterProfile('wide', (text) => text.replace('pace: 25', 'pace: 200')) },
  });
}

/** Runs so many tests at once beside as many messages a second as are asked for, or as get through. */
export async function runCrowd(house: Installation, crowd: number, perSecond: number): Promise<Crowd> {
  const mossgate = await connectMossgate(house, 'wide', 200);
  const on = testBench(house, mossgate);
  await on.publish([on.echo(), on.tell()]);
  const { ctx, bench } = house;
  const unique = Array.from({ length: crowd }, (_, index) => `+4477009002${String(index).padStart(2, '0')}`);
  for (const phone of unique) await bench.addHandset(phone);
  // Every third expects what cannot come: its neighbour's word.
  const right = (index: number) => index % 3 !== 0;
  const ids: string[] = [];
  for (const [index, phone] of unique.entries())
    ids.push(
      await on.write(`Crowd ${index}`, {
        stimulus: on.text(`echo of ${index} {{ run }}`, phone),
        expectations: [
          right(index)
            ? on.arrives(`Echo of echo of ${index} `, phone)
            : on.arrives(`Echo of echo of ${index + 1} `, phone, 8),
          { expect: 'routed', route: 'echo' },
          { expect: 'once', during: 5 },
        ],
      }),
    );
  const send = createSender(ctx);
  const underWay = new Set<Promise<void>>();
  let loading = true;
  let carried = 0;
  const began = performance.now();
  const load = (async () => {
    for (let index = 0; loading; index++) {
      const due = began + (index * 1000) / perSecond;
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
      const phone = unique[Math.floor(index / 10) % unique.length] ?? INES;
      // Of ten, seven come in and three go out; some of both have the very words that the tests wait for.
      const turn = index % 10;
      const words = turn === 0 ? `echo of ${(index / 10) % crowd} load` : `load ${index}`;
      const work =
        turn < 7
          ? postSigned(
              mossgate.inboundUrl,
              mossgate.secret,
              textIn(
                `bwt_crowd${index}`,
                `+447700901${String(index % 900).padStart(3, '0')}`,
                mossgate.channel.address,
                words,
              ),
            )
          : send(SYSTEM, {
              to: turn === 9 ? phone : INES,
              from: mossgate.channel.id,
              text:
                turn === 9
                  ? `Echo of echo of ${(unique.indexOf(phone) + 1) % crowd} traffic ${index}`
                  : `Traffic ${index}`,
            });
      const carrying = work
        .then(
          () => {
            carried += 1;
          },
          () => undefined,
        )
        .finally(() => underWay.delete(carrying));
      underWay.add(carrying);
      // No faster than they are taken, however slow the machine is.
      if (underWay.size >= AT_ONCE) await Promise.race(underWay);
    }
  })();
  const rows = await on.run(...ids);
  loading = false;
  await load;
  const seconds = (performance.now() - began) / 1000;
  const wrong = rows.filter((row, index) => (row.state === 'passed') !== right(index));
  const overlap = Math.max(
    ...rows.map(
      (row) =>
        rows.filter(
          (other) => (other.startedAt ?? 0) <= (row.endedAt ?? 0) && (other.endedAt ?? 0) >= (row.startedAt ?? 0),
        ).length,
    ),
  );
  const slowest = Math.max(...rows.map(({ rounds }) => rounds[0]?.verdicts[0]?.tookMs ?? 0));
  return { rows, right, wrong, overlap, carried: carried / seconds, slowest };
}
