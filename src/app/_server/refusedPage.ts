/** Notes who was refused a page while it was drawn, where Next.js has no request at hand any more but its path and cookies. */
import { noteRefusal } from '../../operations/audit';
import { isOperationError } from '../../operations/context';
import { actorOf, sessionOf } from '../../operations/people';
import { web } from '../../web/runtime';

export async function noteRefusedPage(error: Error, path: string, cookie: string): Promise<void> {
  if (!isOperationError(error) || error.kind !== 'forbidden') return;
  const { windgap } = await web();
  const token = /(?:^|;\s*)(?:__Host-)?windgap=([\w-]+)/.exec(cookie)?.[1];
  const open = token && (await sessionOf(windgap, token));
  if (open) await noteRefusal(windgap, actorOf(open.person), path.replace(/\?.*$/, ''));
}
