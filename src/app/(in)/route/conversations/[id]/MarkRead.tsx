'use client';

import { useEffect } from 'react';
import { markReadAction } from './actions';

/** Opening a conversation is reading it. */
export function MarkRead({ id }: { id: string }) {
  useEffect(() => {
    void markReadAction(id);
  }, [id]);
  return null;
}
