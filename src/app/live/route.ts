/** Server-sent events: what changed, as topic and id; the page decides whether it cares. */
import { currentPerson } from '../_server/session';
import { web } from '../_server/windgap';

const KEEP_ALIVE = 15_000;

export async function GET(request: Request): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  const { live, liveStreams, windgap } = await web();
  const close = liveStreams.open(person.id);
  if (!close) return new Response(null, { status: 429, headers: { 'retry-after': '30' } });
  const encoder = new TextEncoder();
  const stream = new ReadableStream({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      send('retry: 1000\n\n');
      const after = Number(new URL(request.url).searchParams.get('after') ?? 0);
      const end = live.listen(after, (changes) =>
        send(`data: ${JSON.stringify(changes.map(({ topic, subject }) => [topic, subject]))}\n\n`),
      );
      const timer = windgap.clock.every(KEEP_ALIVE, () => send(': still here\n\n'));
      request.signal.addEventListener('abort', () => {
        timer.cancel();
        end();
        close();
        try {
          controller.close();
        } catch {
          // The browser has closed it already.
        }
      });
    },
  });
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
}
