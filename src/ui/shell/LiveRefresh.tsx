'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef } from 'react';
import { systemClock, type Timer } from '../../clock/clock';

interface LiveRefreshProps {
  /** As in the change table. */
  topics: readonly string[];
  /** Only changes of this one. */
  subject?: string;
  /** The latest change when the page began to read what it shows. */
  since: number;
}

/** Redraws the page from the server when something it shows has changed since it was read. */
export function LiveRefresh({ topics, subject, since }: LiveRefreshProps) {
  const router = useRouter();
  // Every redraw brings a later one; the stream that is open needs only the first.
  const from = useRef(since);
  const wanted = topics.join(' ');
  useEffect(() => {
    const source = new EventSource(`/live?after=${from.current}`);
    let timer: Timer | undefined;
    let droppedOnce = false;
    const refresh = () => {
      // Changes come in bursts; one redraw serves them all.
      timer ??= systemClock.after(120, () => {
        timer = undefined;
        router.refresh();
      });
    };
    source.onmessage = (event: MessageEvent<string>) => {
      const changes = JSON.parse(event.data) as [string, string][];
      const concerns = (id: string) => !subject || id === subject || id === '*';
      if (changes.some(([topic, id]) => wanted.split(' ').includes(topic) && concerns(id))) refresh();
    };
    source.onerror = () => {
      droppedOnce = true;
    };
    // What changed while the stream was down was not heard.
    source.onopen = () => droppedOnce && refresh();
    return () => {
      source.close();
      timer?.cancel();
    };
  }, [router, wanted, subject]);
  // Which change the page has been drawn after, for whoever has to wait for a redraw.
  return <meta name="windgap-drawn" content={String(since)} />;
}
