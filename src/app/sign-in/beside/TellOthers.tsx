'use client';

import { useEffect } from 'react';
import { SIGNED_IN_CHANNEL } from '../../../ui/forms/formState';

/** Tells the pages that wait who is signed in now, and closes this one where the browser lets it. */
export function TellOthers({ personId }: { personId: string }) {
  useEffect(() => {
    const channel = new BroadcastChannel(SIGNED_IN_CHANNEL);
    channel.postMessage(personId);
    channel.close();
    window.close();
  }, [personId]);
  return null;
}
