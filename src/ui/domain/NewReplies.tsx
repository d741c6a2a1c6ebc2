'use client';

import { useEffect, useRef, useState } from 'react';
import { Button } from '../primitives/Button';

interface Unread {
  id: string;
  contactName: string;
  lastText: string;
  unread: number;
}

/** Tells of new replies through the browser while the page is not looked at; asked for once, by hand. */
export function NewReplies({ conversations }: { conversations: readonly Unread[] }) {
  const [permission, setPermission] = useState<NotificationPermission | 'unsupported'>();
  const known = useRef<Map<string, number>>(undefined);
  useEffect(() => setPermission('Notification' in window ? Notification.permission : 'unsupported'), []);
  useEffect(() => {
    const counts = new Map(conversations.map(({ id, unread }) => [id, unread]));
    const before = known.current;
    known.current = counts;
    if (!before || permission !== 'granted' || document.visibilityState === 'visible') return;
    for (const { id, contactName, lastText, unread } of conversations)
      if (unread > (before.get(id) ?? 0)) new Notification(contactName, { body: lastText, tag: id });
  }, [conversations, permission]);
  if (permission !== 'default') return null;
  return (
    <Button
      tone="quiet"
      className="h-7 px-0"
      onClick={async () => setPermission(await Notification.requestPermission())}
    >
      Turn on desktop notifications
    </Button>
  );
}
