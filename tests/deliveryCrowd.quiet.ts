/** Many delivery tests at once beside real traffic; by itself, because it needs the machine's pace. */
import { afterAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/actor';
import { createSender } from '../src/operations/sending';
import { testBench } from './harness/deliveryTests';
import { connectMossgate, INES, postSigned, textIn } from './harness/mossgate';
import { brackwaterProfile, type Installation, startInstallation } from './harness/processes';

const PER_SECOND = 100;
const CROWD = 50;

let house: Installation;
afterAll(() => house.stop());

test(`${CROWD} tests at once during ${PER_SECOND} messages a second: no cross-talk, right verdicts`, async () => {
  house = await startInstallation({
    perSecond: 400,
    profiles: { 'wide.yaml': brackwaterProfile('wide', (text) => text.replace('pace: 25', 'pace: 200')) },
  });
  const mossgate = await connectMossgate(house, 'wide', 200);
  const on = testBench(house, mossgate);
  await on.publish([on.echo(), on.tell()]);
  const { w, bench } = house;
  const unique = Array.from({ length: CROWD }, (_, index) => `+4477009002${String(index).padStart(2, '0')}`);
  for (const phone of unique) await bench.addHandset(phone);
  // Every third expects what cannot come: its neighbour's word.
  const right = (index: number) => index % 3 !== 0;
  const ids: string[] = [];
  for (const [index, phone] of unique.entries())
    ids.push(
      await on.write(`Crowd ${index}`, {
        stimulus: on.text(`echo of ${index} {{ run }}`, phone),
        expectations: [
          on.arrives(right(index) ? `Echo of echo of ${index} ` : `Echo of echo of ${index + 1} `, phone, 30),
          { expect: 'routed', route: 'echo' },
          { expect: 'once', during: 15 },
        ],
      }),
    );
  const send = createSender(w);
  let loading = true;
  let carried = 0;
  const began = performance.now();
  const load = (async () => {
    for (let index = 0; loading; index++) {
      const due = began + (index * 1000) / PER_SECOND;
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
      const phone = unique[Math.floor(index / 10) % unique.length] ?? INES;
      // Of ten, seven come in and three go out; some of both have the very words that the tests wait for.
      const turn = index % 10;
      const words = turn === 0 ? `echo of ${(index / 10) % CROWD} load` : `load ${index}`;
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
              text: turn === 9 ? `Echo of echo of ${(unique.indexOf(phone) + 1) % CROWD} traffic` : `Traffic ${index}`,
            });
      void work.then(
        () => {
          carried += 1;
        },
        () => undefined,
      );
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
          (other) => (other.started_at ?? 0) <= (row.ended_at ?? 0) && (other.ended_at ?? 0) >= (row.started_at ?? 0),
        ).length,
    ),
  );
  const slowest = Math.max(...rows.map(({ rounds }) => rounds[0]?.verdicts[0]?.tookMs ?? 0));
  console.log(
    `${rows.length} tests, ${overlap} at once, ${(carried / seconds).toFixed(0)} messages a second beside them for ${seconds.toFixed(0)} s; wrong verdicts: ${wrong.length}; the slowest answer after ${(slowest / 1000).toFixed(1)} s`,
  );
  const saidOf = ({ name, rounds }: (typeof rows)[number]) =>
    `${name}: ${rounds[0]?.verdicts.map(({ holds, said }) => (holds ? 'holds' : said)).join('; ')}`;
  expect(wrong.map(saidOf)).toEqual([]);
  expect(carried / seconds).toBeGreaterThan(PER_SECOND * 0.8);
  for (const row of rows.filter((_, index) => !right(index)))
    expect(row.rounds[0]?.verdicts.map(({ holds }) => holds)).toEqual([false, true, true]);
}, 180_000);
