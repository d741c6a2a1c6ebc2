import 'server-only';
import type { Windgap } from '../../operations/windgap';
import { web } from '../../web/runtime';

export { web };

export async function windgap(): Promise<Windgap> {
  return (await web()).windgap;
}
