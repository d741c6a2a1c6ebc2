import 'server-only';
import { cause, causeCodes } from '../../../../core/delivery/causes';
import type { Actor } from '../../../../operations/actor';
import { testChoices } from '../../../../operations/suggestingTests';
import type { Windgap } from '../../../../operations/windgap';
import type { TestChoices } from './testChoices';

/** Everything a test can name, and the causes it can be refused for. */
export async function choicesFor(w: Windgap, actor: Actor): Promise<TestChoices> {
  const causes = causeCodes()
    .map((code): [string, string] => [code, cause(code).title])
    .sort((a, b) => a[1].localeCompare(b[1]));
  return { ...(await testChoices(w, actor)), causes };
}
