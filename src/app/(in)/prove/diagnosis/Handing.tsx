'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { Button } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { makeGoodAction } from './actions';

/** The report for whoever owns the part of the way: copied, or saved as a file. */
export function ReportButtons({ here }: { here: string }) {
  const [busy, setBusy] = useState(false);
  const address = here.replace('/prove/diagnosis?', '/prove/diagnosis/report?');
  async function copy() {
    setBusy(true);
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(`status ${answer.status}`);
      await navigator.clipboard.writeText(await answer.text());
      toast.success('The report is copied');
    } catch {
      toast.error('The report could not be copied', { description: 'Save it as a file instead.' });
    }
    setBusy(false);
  }
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      <Button onClick={copy} disabled={busy}>
        Copy the report
      </Button>
      <Link href={address} download prefetch={false}>
        Save it as a file
      </Link>
    </div>
  );
}

const GO: Record<'messages' | 'requests' | 'events', (count: number) => string> = {
  messages: (n) => (n === 1 ? 'Send it again' : `Send the ${n} again`),
  requests: (n) => (n === 1 ? 'Read it now' : `Read the ${n} now`),
  events: (n) => (n === 1 ? 'Send the event again' : `Send the ${n} events again`),
};

/** Sends or reads once more what was lost. */
export function MakeGoodButton({
  here,
  kind,
  count,
}: {
  here: string;
  kind: 'messages' | 'requests' | 'events';
  count: number;
}) {
  return (
    <ActionButton
      action={makeGoodAction.bind(null, here)}
      confirm={{
        title: GO[kind](count),
        consequence: 'Each is judged anew, as if it came now: what is not allowed any more is refused, and said so.',
        go: GO[kind](count),
      }}
    >
      {GO[kind](count)}
    </ActionButton>
  );
}
