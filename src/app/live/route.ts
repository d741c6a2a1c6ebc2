/** Server-sent events: what changed, as topic and id; the page decides whether it cares. */
import { reachedChanges } from '../../operations/context';
import { isOpen } from '../../operations/people';
import { eventStream } from '../../web/eventStream';
import { currentSession, sessionActor } from '../_server/session';
import { web } from '../_server/windgap';

export async function GET(request: Request): Promise<Response> {
  const open = await currentSession();
  if (!open) return new Response(null, { status: 401 });
  const { live, liveStreams, windgap } = await web();
  const close = liveStreams.open(open.person.id);
  if (!close) return new Response(null, { status: 429, headers: { 'retry-after': '30' } });
  const after = Number(new URL(request.url).searchParams.get('after') ?? 0);
  return eventStream(request, windgap.clock, {
    retry: 1000,
    begin(push, leave) {
      // Whoever is signed out, switched off or has another role by now hears nothing more within a second.
      const watching = windgap.clock.every(1000, () => {
        void isOpen(windgap, open.id).then(
          (still) => still || leave(),
          () => undefined,
        );
      });
      const end = live.listen(after, (changes) => {
        void reachedChanges(windgap.store, sessionActor(open), changes).then(
          (reached) =>
            reached.length > 0 &&
            push(`data: ${JSON.stringify(reached.map(({ topic, subject }) => [topic, subject]))}\n\n`),
          (error) => windgap.log.error({ err: error }, 'what changed could not be told'),
        );
      });
      return () => {
        watching.cancel();
        end();
        close();
      };
    },
  });
}
