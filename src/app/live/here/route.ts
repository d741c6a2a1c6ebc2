/** Whether whoever asks is signed in: 204, else 401. */
import { currentSession } from '../../_server/session';

export async function GET(): Promise<Response> {
  return new Response(null, {
    status: (await currentSession()) ? 204 : 401,
    headers: { 'cache-control': 'no-store' },
  });
}
