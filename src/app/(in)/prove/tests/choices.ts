import 'server-only';
import { cause, causeCodes } from '../../../../core/delivery/causes';
import type { Actor, AppContext } from '../../../../operations/context';
import { testChoices } from '../../../../operations/deliveryTests';
import type { TestChoices } from './testChoices';

/** Everything a test can name, and the causes it can be refused for. */
export async function choicesFor(ctx: AppContext, actor: Actor): Promise<TestChoices> {
  const causes = causeCodes()
    .map((code): [string, string] => [code, cause(code).title])
    .sort((a, b) => a[1].localeCompare(b[1]));
  return { ...(await testChoices(ctx, actor)), causes };
}
