/** Send hooks and phone events as functions from Request to Response: apps post records here. */

import { answerIn, FIRST_VERSION } from '../core/api/versions';
import { type PublishedRemedy, publishedRemedy } from '../core/remedy';
import { type HookPost, LARGEST_POST, takeHookPost } from '../operations/apps/hooks';
import { takeCall } from '../operations/apps/phone';
import { problem } from './api/answer';
import { readBody } from './readBody';
import { web } from './runtime';

export const HOOKS_ROOT = '/hooks/';

export const CALLS_ROOT = '/calls/';

async function postOf(request: Request, root: string, from: string): Promise<HookPost> {
  return {
    address: new URL(request.url).pathname.slice(root.length),
    method: request.method,
    headers: Object.fromEntries(request.headers),
    body: request.method === 'POST' ? await readBody(request, LARGEST_POST) : Buffer.alloc(0),
    remoteAddress: from,
  };
}

/** Where telephone systems post what becomes of calls. */
export async function serveCall(request: Request, from: string): Promise<Response> {
  const { windgap } = await web();
  const { status, id, state, reason } = await takeCall(windgap, await postOf(request, CALLS_ROOT, from));
  if (status === 202) return Response.json({ id, state, status: reason }, { status });
  const title = 'Nothing was done about this call';
  return problem(
    { status, type: TYPES[status] ?? 'invalid', title, detail: reason },
    status === 405 ? { allow: 'POST' } : {},
  );
}

export async function serveHook(request: Request, from: string): Promise<Response> {
  const { windgap } = await web();
  const answer = await takeHookPost(windgap, await postOf(request, HOOKS_ROOT, from));
  const { status, reason, postId } = answer;
  if (status === 202) {
    const headers: Record<string, string> = answer.replayed ? { 'windgap-replayed': 'true' } : {};
    return Response.json({ id: postId, status: reason }, { status, headers });
  }
  // Hooks have no key that could be pinned to a version: whoever wrote for the first one reads both names.
  const errors = answerIn(
    FIRST_VERSION,
    answer.findings.map((finding) => ({
      field: finding.field,
      code: finding.code,
      problem: finding.problem,
      ...publishedRemedy(finding.remedy),
    })),
  ) as ({ field: string; code: string; problem: string } & PublishedRemedy)[];
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
