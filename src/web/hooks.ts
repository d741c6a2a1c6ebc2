/** Send hooks as a function from Request to Response: apps post records here. */
import { LARGEST_POST, takeHookPost } from '../operations/hookIntake';
import { problem } from './api/answer';
import { readBody } from './readBody';
import { web } from './runtime';

export const HOOKS_ROOT = '/hooks/';

export async function serveHook(request: Request, remoteAddress?: string): Promise<Response> {
  const { windgap } = await web();
  const answer = await takeHookPost(windgap, {
    address: new URL(request.url).pathname.slice(HOOKS_ROOT.length),
    method: request.method,
    headers: Object.fromEntries(request.headers),
    body: request.method === 'POST' ? await readBody(request, LARGEST_POST) : Buffer.alloc(0),
    remoteAddress: request.headers.get('x-forwarded-for') ?? remoteAddress ?? null,
  });
  const { status, reason, postId } = answer;
  if (status === 202) {
    const headers: Record<string, string> = answer.replayed ? { 'idempotency-replayed': 'true' } : {};
    return Response.json({ id: postId, status: reason }, { status, headers });
  }
  const errors = answer.findings.map((finding) => ({
    field: finding.field,
    code: finding.code,
    problem: finding.problem,
    mend: finding.mend,
  }));
  return problem(
    {
      status,
      type: TYPES[status] ?? 'invalid',
      title: 'No message was made of this post',
      detail: reason,
      ...(errors.length > 0 ? { errors } : {}),
    },
    status === 405 ? { allow: 'POST' } : {},
  );
}

const TYPES: Record<number, string> = {
  401: 'hook-guard',
  404: 'not-found',
  405: 'method',
  409: 'hook-name',
  410: 'hook-off',
  413: 'too-large',
};
