/** Server-sent events (WHATWG HTML §9.2): an answer that stays open until the browser goes away. */
import type { Clock } from '../clock/clock';

/** Proxies end what is silent for longer. */
const KEEP_ALIVE = 15_000;

interface EventStream {
  /** Milliseconds after which a browser that was cut off comes again. */
  retry: number;
  headers?: Record<string, string>;
  /** Begins to push pieces of the stream, and may end it; what it gives back is called once, when it is over. */
  begin(push: (text: string) => void, leave: () => void): () => void;
}

/** The answer, with a sign of life every fifteen seconds. */
export function eventStream(request: Request, clock: Clock, { retry, headers, begin }: EventStream): Response {
  const encoder = new TextEncoder();
  const body = new ReadableStream({
    start(controller) {
      const push = (text: string) => controller.enqueue(encoder.encode(text));
      push(`retry: ${retry}\n\n`);
      let over = false;
      const leave = () => {
        if (over) return;
        over = true;
        timer.cancel();
        end();
        try {
          controller.close();
        } catch {
          // The browser has closed it already.
        }
      };
      const timer = clock.every(KEEP_ALIVE, () => push(': still here\n\n'));
      const end = begin(push, leave);
      request.signal.addEventListener('abort', leave);
    },
  });
  return new Response(body, {
    // Proxies that collect answers before they pass them on are asked not to.
    headers: {
      ...headers,
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
