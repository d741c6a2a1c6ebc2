/** The way to the identity provider. `anew`: whoever is signed in shows there again that it is they. */
import { NextResponse } from 'next/server';
import { isOperationError } from '../../../operations/context';
import { beginProviderSignIn } from '../../../operations/people';
import { keepProviderStep, keepSaid, localPath } from '../../_server/session';
import { windgap } from '../../_server/windgap';

export async function GET(request: Request): Promise<Response> {
  const ctx = await windgap();
  const asked = new URL(request.url).searchParams;
  try {
    const { url, token } = await beginProviderSignIn(ctx, {
      next: localPath(asked.get('next') ?? '/'),
      anew: asked.get('anew') === '1',
    });
    await keepProviderStep(token);
    return NextResponse.redirect(url, 303);
  } catch (error) {
    if (!isOperationError(error)) throw error;
    await keepSaid(error.message);
    return NextResponse.redirect(`${ctx.config.publicUrl}/sign-in`, 303);
  }
}
