/** Notes who was refused what on a page, by an action or at an address. */
import 'server-only';
import { headers } from 'next/headers';
import { noteRefusal } from '../../operations/audit';
import type { OperationError } from '../../operations/context';
import { currentSession, sessionActor } from './session';
import { windgap } from './windgap';

export async function noteRefused(error: OperationError): Promise<void> {
  if (error.kind !== 'forbidden') return;
  const [open, given] = await Promise.all([currentSession(), headers()]);
  if (!open) return;
  const path = (given.get('x-windgap-path') ?? '/').replace(/\?.*$/, '');
  await noteRefusal(await windgap(), sessionActor(open), `${given.has('next-action') ? 'an action on ' : ''}${path}`);
}
