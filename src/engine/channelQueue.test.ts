import { expect, test } from 'vitest';
import { systemClock } from '../clock/clock';
import { createChannelQueue } from './channelQueue';

interface Numbered {
  n: number;
}

const jobs = (...numbers: number[]): Numbered[] => numbers.map((n) => ({ n }));

/** Sends that end when told to. */
function sends() {
  const open: (() => void)[] = [];
  const started: number[] = [];
  return {
    open,
    started,
    send({ n }: Numbered) {
      started.push(n);
      return new Promise<void>((resolve) => open.push(resolve));
    },
  };
}

const settle = () => new Promise((resolve) => setImmediate(resolve));

test('so many at once, in the order they came, the next when one has ended', async () => {
  const { open, started, send } = sends();
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 2, ahead: 4 }, systemClock, send);
  channelQueue.push(jobs(1, 2, 3));
  expect(started).toEqual([1, 2]);
  open[1]?.();
  await settle();
  expect(started).toEqual([1, 2, 3]);
});

test('more is claimed when a place is idle or for many, not for one', async () => {
  const { open, send } = sends();
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 2, ahead: 4 }, systemClock, send);
  expect(channelQueue.room()).toBe(6);
  channelQueue.push(jobs(1, 2, 3, 4, 5, 6));
  expect(channelQueue.room()).toBe(0);
  open[0]?.();
  await settle();
  expect(channelQueue.room()).toBe(0);
  open[1]?.();
  open[2]?.();
  await settle();
  expect(channelQueue.room()).toBe(3);
});

test('holds the pace however fast the answers come', async () => {
  const times: number[] = [];
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 50, pace: 40, ahead: 0 }, systemClock, async () => {
    times.push(performance.now());
  });
  // From before the first turn: what is late only makes it longer.
  const began = performance.now();
  channelQueue.push(Array.from({ length: 60 }, (_, index) => ({ n: index })));
  await channelQueue.drained();
  expect(times).toHaveLength(60);
  expect((times[40] as number) - began).toBeGreaterThan(998);
});

test('is drained when the last answer is there', async () => {
  const { open, send } = sends();
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 1, ahead: 1 }, systemClock, send);
  let drained = false;
  channelQueue.push(jobs(1, 2));
  void channelQueue.drained().then(() => {
    drained = true;
  });
  open[0]?.();
  await settle();
  expect(drained).toBe(false);
  open[1]?.();
  await settle();
  await settle();
  expect(drained).toBe(true);
});

/** Odd numbers go to one, even ones to many. */
const isBulk = ({ n }: Numbered) => n % 2 === 0;

test('what goes to one overtakes all bulk that has not begun, and finds a place bulk may not take', async () => {
  const { open, started, send } = sends();
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 2, ahead: 6 }, systemClock, send, { isBulk });
  channelQueue.push(jobs(2, 4, 6, 8));
  expect(started).toEqual([2]);
  channelQueue.push(jobs(1, 3, 5));
  expect(started).toEqual([2, 1]);
  for (let ended = 0; ended < 6; ended++) {
    open[ended]?.();
    await settle();
  }
  expect(started).toEqual([2, 1, 3, 5, 4, 6, 8]);
});

test('there is room for what goes to one while bulk fills everything', () => {
  const { send } = sends();
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 2, ahead: 4 }, systemClock, send, { isBulk });
  channelQueue.push(jobs(2, 4, 6, 8, 10, 12));
  expect([channelQueue.room(true), channelQueue.room(false)]).toEqual([0, 6]);
});

test('bulk leaves a twentieth of the pace to others', async () => {
  const times: number[] = [];
  const channelQueue = createChannelQueue<Numbered>(
    { atOnce: 50, pace: 50, ahead: 0 },
    systemClock,
    async () => void times.push(performance.now()),
    { isBulk },
  );
  // From before the first turn: what is late only makes it longer.
  const began = performance.now();
  channelQueue.push(Array.from({ length: 60 }, (_, index) => ({ n: 2 * index })));
  await channelQueue.drained();
  expect(times).toHaveLength(60);
  // A timer of the machine counts whole milliseconds and may come within the last of them.
  expect((times[48] as number) - began).toBeGreaterThan(998);
});

test('each is asked for when its turn has come: what does not leave any more takes no turn, and a question that fails is asked again', async () => {
  const { open, started, send } = sends();
  const asked: number[] = [];
  let broken = true;
  const channelQueue = createChannelQueue<Numbered>({ atOnce: 1, pace: 1000, ahead: 9 }, systemClock, send, {
    async stillLeaves({ n }) {
      asked.push(n);
      if (n === 4 && broken) {
        broken = false;
        throw new Error('the store is busy');
      }
      return n !== 2;
    },
  });
  channelQueue.push(jobs(1, 2, 3, 4));
  for (let ended = 0; ended < 3; ended++) {
    while (!open[ended]) await settle();
    open[ended]?.();
  }
  await channelQueue.drained();
  expect(started).toEqual([1, 3, 4]);
  expect(asked.filter((n) => n === 4).length).toBeGreaterThanOrEqual(2);
});
