'use client';

import { Switch } from 'radix-ui';
import { Section } from '../../../../ui/primitives/layout';
import { faultAction } from './actions';

/** What each switch does, in the administrator's words. A fault without words here is not offered. */
const WORDS: Record<string, Record<string, string>> = {
  brackwater: {
    down: 'Cannot be reached',
    signsWithAnotherSecret: 'Signs with another secret',
    postsTwice: 'Posts everything twice',
    reportsBeforeAnswer: 'Receipt before the answer',
    reportsReversed: 'Receipts in reverse order',
    strayReports: 'Receipts for unknown messages',
    ignoresReferences: 'Ignores our references',
  },
  ostrel: {
    down: 'Cannot be reached',
    silent: 'Answers nothing',
    throttles: 'Throttles every text',
    cutsBeforeAnswer: 'Cuts before answering',
  },
  tarrow: {
    down: 'Cannot be reached',
    signsWithAnotherKey: 'Seals with another key',
    postsTwice: 'Posts everything twice',
  },
  fennick: { down: 'Cannot be reached', bouncesEverything: 'Returns every mail', lookupDown: 'Look-up fails' },
  lockbook: { answers500: 'Answers 500', neverAnswers: 'Never answers' },
  towpath: { down: 'Cannot be reached', slow: 'Takes eight seconds' },
  weir: { down: 'Cannot be reached', answers500: 'Answers 500', takesAndHangs: 'Takes a ticket and never says so' },
};
const NAMES: Record<string, string> = {
  brackwater: 'Brackwater',
  ostrel: 'Ostrel',
  tarrow: 'Tarrow',
  fennick: 'Fennick',
  lockbook: 'Lockbook',
  towpath: 'Towpath Records',
  weir: 'Weir Desk',
};

export function FaultSwitches({
  faults,
  changed,
}: {
  faults: Record<string, Record<string, boolean | number>>;
  changed: () => void;
}) {
  return (
    <Section title="Fault switches" id="faults" aside="Break the outside on purpose.">
      {Object.entries(WORDS).map(([service, words]) => (
        <fieldset key={service} className="mb-3 rounded-md border border-line bg-panel px-3 py-2">
          <legend className="px-1 text-[13px] text-soft">{NAMES[service]}</legend>
          {Object.entries(words).map(([fault, text]) => {
            const on = Boolean(faults[service]?.[fault]);
            const id = `${service}-${fault}`;
            return (
              <div key={fault} className="flex items-center justify-between gap-3 py-1">
                <label htmlFor={id} className={on ? 'font-medium text-clay' : ''}>
                  {text}
                </label>
                <Switch.Root
                  id={id}
                  checked={on}
                  onCheckedChange={async (value) => {
                    await faultAction(service, fault, value);
                    changed();
                  }}
                  className="h-5 w-9 shrink-0 rounded-sm border border-line-strong bg-paper data-[state=checked]:border-clay data-[state=checked]:bg-clay"
                >
                  <Switch.Thumb className="block h-3.5 w-3.5 translate-x-0.5 rounded-[2px] bg-line-strong data-[state=checked]:translate-x-[18px] data-[state=checked]:bg-panel" />
                </Switch.Root>
              </div>
            );
          })}
        </fieldset>
      ))}
    </Section>
  );
}
