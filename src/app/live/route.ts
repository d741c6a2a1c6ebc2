/** Server-sent events: what changed, as topic and id; the page decides whether it cares. */
import { eventStream } from '../../web/eventStream';
import { currentPerson } from '../_server/session';
import { web } from '../_server/windgap';

export async function GET(request: Request): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  const { live, liveStreams, windgap } = await web();
  const close = liveStreams.open(person.id);
  if (!close) return new Response(null, { status: 429, headers: { 'retry-after': '30' } });
  const after = Number(new URL(request.url).searchParams.get('after') ?? 0);
  return eventStream(request, windgap.clock, {
    retry: 1000,
    begin(push) {
      const end = live.listen(after, (changes) =>
        push(`data: ${JSON.stringify(changes.map(({ topic, subject }) => [topic, subject]))}\n\n`),
      );
      return () => {
        end();
        close();
      };
    },
  });
}
