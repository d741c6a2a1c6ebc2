'use client';

import { useState } from 'react';
import { type Evidence, EvidenceBlock } from '../../../../ui/domain/EvidenceBlock';
import { Button } from '../../../../ui/primitives/Button';
import { Dialog } from '../../../../ui/primitives/Dialog';

/** What is sent, and every attempt with the app's answer. */
export function Attempts({ body, attempts, count }: { body: string; attempts: Evidence[]; count: number }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        {count === 0 ? 'View' : count === 1 ? '1 attempt' : `${count} attempts`}
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title="What was sent, and the answers" wide>
        <div className="max-h-[66vh] overflow-y-auto">
          {attempts.length === 0 ? (
            <pre
              tabIndex={0}
              className="rounded border border-line bg-paper p-2 font-mono text-xs whitespace-pre-wrap break-all"
            >
              {JSON.stringify(JSON.parse(body), null, 2)}
            </pre>
          ) : (
            attempts.toReversed().map((attempt) => <EvidenceBlock key={attempt.id} evidence={attempt} />)
          )}
        </div>
      </Dialog>
    </>
  );
}
