'use client';

import type { OtherAutomation } from '../../../../operations/routing';
import { Link } from '../../../../ui/primitives/Link';
import { Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';

/** What is set in motion by something else than a message, found by the same search. */
export function OtherAutomations({ automations, wanted }: { automations: readonly OtherAutomation[]; wanted: string }) {
  const shown = automations.filter(({ what, name, app }) => `${what} ${name} ${app}`.toLowerCase().includes(wanted));
  return (
    <Section title="Other automations" id="others">
      {shown.length === 0 ? (
        <p className="text-soft">
          {automations.length === 0
            ? 'No other automation sends yet. Send hooks, sheets, calendars and calls are set up with their app.'
            : 'No automation has that name.'}
        </p>
      ) : (
        <Table
          caption="Automations by source"
          rows={[...shown]}
          keyOf={({ id }) => id}
          columns={[
            { head: 'Source', className: 'whitespace-nowrap', cell: ({ what }) => what },
            {
              head: 'Name',
              className: 'whitespace-nowrap',
              cell: ({ name, href }) => <Link href={href}>{name}</Link>,
            },
            { head: 'App', className: 'w-full', cell: ({ app }) => app },
            {
              head: 'Runs in 7 days',
              className: 'text-right tabular-nums whitespace-nowrap',
              cell: ({ runs }) => String(runs),
            },
          ]}
        />
      )}
    </Section>
  );
}
