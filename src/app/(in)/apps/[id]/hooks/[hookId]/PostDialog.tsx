'use client';

import { useState } from 'react';
import type { Finding } from '../../../../../../core/finding';
import { type Evidence, EvidenceBlock } from '../../../../../../ui/domain/EvidenceBlock';
import { FindingLine } from '../../../../../../ui/domain/Findings';
import { Button } from '../../../../../../ui/primitives/Button';
import { Dialog } from '../../../../../../ui/primitives/Dialog';

export function PostDialog({ evidence, findings }: { evidence: Evidence; findings: readonly Finding[] }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Post</Button>
      <Dialog open={open} onOpenChange={setOpen} title="What was posted, and the answer" wide>
        <div className="max-h-[66vh] overflow-y-auto">
          {findings.map((finding) => (
            <FindingLine key={`${finding.code} ${finding.problem}`} finding={finding} />
          ))}
          <EvidenceBlock evidence={evidence} />
        </div>
      </Dialog>
    </>
  );
}
