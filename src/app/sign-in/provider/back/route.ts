/** Where the identity provider sends people back to. */
import { NextResponse } from 'next/server';
import { isOperationError, OperationError } from '../../../../operations/context';
import { confirmByProvider, endProviderSignIn, returnAddress } from '../../../../operations/people';
import { landingOf } from '../../../_server/admit';
import { currentSession, keepSaid, keptProviderStep, openSession, sessionActor } from '../../../_server/session';
import { windgap } from '../../../_server/windgap';

export async function GET(request: Request): Promise<Response> {
  const ctx = await windgap();
  const to = (path: string) => NextResponse.redirect(`${ctx.config.publicUrl}${path}`, 303);
  try {
    const back = new URL(`${returnAddress(ctx)}${new URL(request.url).search}`);
    const came = await endProviderSignIn(ctx, await keptProviderStep(), back);
    const open = await currentSession();
    if (came.anew) {
      if (!open) throw new OperationError('signed-out', 'You were signed out meanwhile. Sign in again.');
      await confirmByProvider(ctx, sessionActor(open), came);
      return to('/sign-in/beside');
    }
    await openSession(came.person, { way: 'provider', providerToken: came.idToken });
    return to(landingOf(came.person, came.next));
  } catch (error) {
    if (!isOperationError(error)) throw error;
    await keepSaid(error.message);
    return to('/sign-in');
  }
}
