'use client';

import { Button } from '../../ui/primitives/Button';
import { DocumentTitle } from '../../ui/primitives/DocumentTitle';
import { Panel } from '../../ui/primitives/layout';

/** A page that could not be drawn. What was stored is untouched. */
export default function PageFailed({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <Panel className="mx-auto mt-16 max-w-[560px] p-6">
      <DocumentTitle of="This page could not be drawn" />
      <h1 className="mb-2 text-[20px] font-semibold">This page could not be drawn</h1>
      <p className="mb-4">
        Messages and settings are not affected. The log of the web process has the reason
        {error.digest && (
          <>
            {' '}
            under <code>{error.digest}</code>
          </>
        )}
        .
      </p>
      <Button tone="primary" onClick={reset}>
        Try again
      </Button>
    </Panel>
  );
}
