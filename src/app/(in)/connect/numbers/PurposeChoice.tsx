'use client';

import { useTransition } from 'react';
import { toast } from 'sonner';
import type { NumberPurpose } from '../../../../core/connect/purposes';
import { PURPOSES } from '../../../../core/connect/purposes';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { purposeAction } from './actions';

/** What a number is for; saved as soon as it is chosen. */
export function PurposeChoice({
  id,
  address,
  purpose,
}: {
  id: string;
  address: string;
  purpose: NumberPurpose | null;
}) {
  const [waiting, startTransition] = useTransition();
  return (
    <select
      aria-label={`Purpose of ${address}`}
      defaultValue={purpose ?? ''}
      disabled={waiting}
      onChange={(event) => {
        const chosen = event.target.value;
        startTransition(async () => {
          const answer = await throughAsking(() => purposeAction(id, chosen));
          if (answer.status === 'refused') toast.error(answer.message);
        });
      }}
      className="rounded border border-line-strong bg-panel px-1.5 py-0.5 text-[13px]"
    >
      <option value="">not set</option>
      {Object.entries(PURPOSES).map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  );
}
