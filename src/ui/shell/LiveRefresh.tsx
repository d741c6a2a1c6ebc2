'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { systemClock, type Timer } from '../../clock/clock';
import { SIGNED_IN_CHANNEL } from '../forms/formState';
import { noteSignedOut } from '../forms/throughAsking';

/** A stream that was not let in is tried again after so long. */
const AGAIN_AFTER = 5000;

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
  const [round, setRound] = useState(0);
  const wanted = topics.join(' ');
  useEffect(() => {
    const again = () => setRound((before) => before + 1);
    window.addEventListener(SIGNED_IN_CHANNEL, again);
    return () => window.removeEventListener(SIGNED_IN_CHANNEL, again);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each signing in begins another stream
  useEffect(() => {
    const source = new EventSource(`/live?after=${from.current}`);
    let timer: Timer | undefined;
    let later: Timer | undefined;
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
      if (source.readyState !== EventSource.CLOSED) return;
      // Closed for good: the session has ended, or there are too many streams already.
      void isSignedIn().then((here) => {
        if (!here) noteSignedOut();
        else later = systemClock.after(AGAIN_AFTER, () => setRound((before) => before + 1));
      });
    };
    // What changed while the stream was down was not heard.
    source.onopen = () => droppedOnce && refresh();
    return () => {
      source.close();
      timer?.cancel();
      later?.cancel();
    };
  }, [router, wanted, subject, round]);
  // Which change the page has been drawn after, for whoever has to wait for a redraw.
  return <meta name="windgap-drawn" content={String(since)} />;
}

/** What cannot be asked is taken to be as it was. */
async function isSignedIn(): Promise<boolean> {
  const answer = await fetch('/live/here').catch(() => undefined);
  return answer?.status !== 401;
}
