/** Answers of addresses that are no pages: files, and what scripts ask for. */
import 'server-only';
import { isOperationError, type OperationError } from '../../operations/context';
import { noteRefused } from './refusals';

const STATUS: Record<OperationError['kind'], number> = {
  forbidden: 403,
  'not-found': 404,
  invalid: 400,
  conflict: 409,
  'key-reused': 422,
  'too-often': 429,
  'signed-out': 401,
  unconfirmed: 403,
};

/** An operation's refusal as an answer with its words; anything unexpected is thrown on. */
export async function answerRoute(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (!isOperationError(error)) throw error;
    await noteRefused(error);
    return new Response(error.message, { status: STATUS[error.kind] });
  }
}
