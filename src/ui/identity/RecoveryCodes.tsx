'use client';

import { useState, useTransition } from 'react';
import { toast } from 'sonner';
import type { FormState } from '../forms/formState';
import { throughAsking } from '../forms/throughAsking';
import { Button } from '../primitives/Button';
import { CopyButton } from '../primitives/CopyButton';

/** Makes recovery codes and shows them this once. */
export function RecoveryCodes({ make, words }: { make: () => Promise<FormState>; words: string }) {
  const [codes, setCodes] = useState<string>();
  const [waiting, start] = useTransition();
  function go() {
    start(async () => {
      const answer = await throughAsking(make);
      if (answer.status === 'refused') toast.error(answer.message);
      if (answer.status === 'done') setCodes(answer.values?.codes);
    });
  }
  if (codes)
    return (
      <div data-recovery-codes>
        <p className="mb-2">Keep these where your device is not. Each opens once; they are shown this once.</p>
        <pre className="rounded border border-line bg-wash p-3 font-mono text-[13px]">{codes}</pre>
        <p className="mt-2">
          <CopyButton value={codes} what="the recovery codes" />
        </p>
      </div>
    );
  return (
    <Button disabled={waiting} onClick={go}>
      {words}
    </Button>
  );
}
