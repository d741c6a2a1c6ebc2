'use client';

import { type ReactNode, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { Button, type ButtonTone } from '../primitives/Button';
import { Dialog } from '../primitives/Dialog';
import type { FormState } from './formState';
import { throughAsking } from './throughAsking';

interface ActionButtonProps {
  action: () => Promise<FormState>;
  children: ReactNode;
  tone?: ButtonTone;
  busy?: string;
  done?: string;
  /** For what cannot be undone: what will stop working. */
  confirm?: { title: string; consequence: string; go: string };
}

/** A button that does one thing on the server and says how it went. */
export function ActionButton({ action, children, tone, busy, done, confirm }: ActionButtonProps) {
  const [waiting, startTransition] = useTransition();
  const [asking, setAsking] = useState(false);

  function go() {
    setAsking(false);
    startTransition(async () => {
      const answer = await throughAsking(action);
      if (answer.status === 'refused') {
        const remedy = answer.findings[0]?.finding.remedy;
        toast.error(answer.message, { description: remedy });
      } else {
        const message = (answer.status === 'done' && answer.message) || done;
        if (message) toast.success(message);
      }
    });
  }

  return (
    <>
      <Button tone={tone} disabled={waiting} onClick={confirm ? () => setAsking(true) : go}>
        {waiting ? (busy ?? 'Working…') : children}
      </Button>
      {confirm && (
        <Dialog open={asking} onOpenChange={setAsking} title={confirm.title}>
          <p>{confirm.consequence}</p>
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setAsking(false)}>Cancel</Button>
            <Button tone="danger" onClick={go}>
              {confirm.go}
            </Button>
          </div>
        </Dialog>
      )}
    </>
  );
}
