import 'server-only';
import type { AppContext } from '../../operations/context';
import { web } from '../../web/runtime';

export { web };

export async function windgap(): Promise<AppContext> {
  return (await web()).windgap;
}
