'use client';

import { Switch } from 'radix-ui';
import { toast } from 'sonner';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Section } from '../../../../ui/primitives/layout';
import { faultAction } from './actions';
import { FAULT_WORDS, valueOfFault, wordsOfFault } from './faultWords';

type Faults = Record<string, Record<string, boolean | number>>;

/** Every switch by what it breaks; a service with one on stands open. */
export function FaultSwitches({ faults, changed }: { faults: Faults; changed: () => void }) {
  return (
    <Section title="Fault switches" id="faults" aside="Break the outside on purpose.">
      {Object.entries(FAULT_WORDS).map(([service, { name, groups }]) => {
        const on = groups.flatMap(([, words]) => Object.keys(words)).filter((fault) => faults[service]?.[fault]).length;
        return (
          <details
            key={service}
            open={on > 0 || service === 'brackwater'}
            className="mb-2 rounded-md border border-line bg-panel px-3 py-2"
          >
            <summary className="cursor-pointer">
              {name}
              {on > 0 && <span className="text-clay"> · {on} on</span>}
            </summary>
            {groups.map(([title, words]) => (
              <fieldset key={title} className="mt-2">
                <legend className="text-[13px] text-soft">{title}</legend>
                {Object.entries(words).map(([fault, word]) => (
                  <Fault
                    key={fault}
                    id={`${service}-${fault}`}
                    text={wordsOfFault(word)}
                    on={Boolean(faults[service]?.[fault])}
                    onChange={async (value) => {
                      const off = typeof word === 'string' ? false : 0;
                      const answer = await throughAsking(() =>
                        faultAction(service, fault, value ? valueOfFault(word) : off),
                      );
                      if (answer.status === 'refused') toast.error(answer.message);
                      changed();
                    }}
                  />
                ))}
              </fieldset>
            ))}
          </details>
        );
      })}
    </Section>
  );
}

function Fault({
  id,
  text,
  on,
  onChange,
}: {
  id: string;
  text: string;
  on: boolean;
  onChange: (value: boolean) => Promise<void>;
}) {
  return (
    <div className="flex items-center justify-between gap-3 py-1">
      <label htmlFor={id} className={on ? 'font-medium text-clay' : ''}>
        {text}
      </label>
      <Switch.Root
        id={id}
        checked={on}
        onCheckedChange={onChange}
        className="h-5 w-9 shrink-0 rounded-sm border border-line-strong bg-paper data-[state=checked]:border-clay data-[state=checked]:bg-clay"
      >
        <Switch.Thumb className="block h-3.5 w-3.5 translate-x-0.5 rounded-[2px] bg-line-strong data-[state=checked]:translate-x-[18px] data-[state=checked]:bg-panel" />
      </Switch.Root>
    </div>
  );
}
