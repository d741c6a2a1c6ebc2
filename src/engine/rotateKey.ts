/**
 * Replaces the sealing key of an installation that may go on running: `npm run rotate-key -- --data data` puts a new key
 * before the one there is and seals everything again; `--retire`, some time later, takes the former keys away, once
 * nothing is sealed with them any more. Exit 0: done; 1: not done, and why.
 */
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { configFromEnvironment, openAppContext, SYSTEM } from '../operations/context';
import { replaceKey, resealAll, retireKeys } from '../operations/sealing';

const { values } = parseArgs({
  options: { data: { type: 'string' }, retire: { type: 'boolean', default: false } },
});
const config = configFromEnvironment({
  ...process.env,
  WINDGAP_LOG: 'fatal',
  ...(values.data ? { WINDGAP_DATA: values.data } : {}),
});
const say = (text: string) => console.log(`windgap: ${text}`);

const ctx = await openAppContext(config, 'rotate-key');
try {
  if (values.retire) {
    const gone = await retireKeys(ctx, SYSTEM, join(config.dataFolder, 'sealing.key'));
    say(gone === 1 ? 'one former key is gone' : `${gone} former keys are gone`);
  } else {
    if (!config.sealingKey) {
      const { id } = await replaceKey(ctx, SYSTEM, join(config.dataFolder, 'sealing.key'));
      say(`the new key is ${id}; processes that run have taken it up`);
    }
    const { rows, lost } = await resealAll(ctx, SYSTEM);
    say(`${rows} secrets were sealed again`);
    for (const each of lost) say(`${each} opens with no key that is there`);
    if (lost.length > 0) process.exitCode = 1;
    else if (!config.sealingKey)
      say('run this again with --retire once you are sure, and keep no copy of the former key');
  }
} catch (error) {
  say((error as Error).message);
  process.exitCode = 1;
}
ctx.engineWakeUp.close();
await ctx.store.close();
