'use client';

import { useRouter } from 'next/navigation';
import { useMemo, useState, useTransition } from 'react';
import { toast } from 'sonner';
import type { DeliveryTest, Expectation, Stimulus } from '../../../../core/deliveryTest/deliveryTest';
import { namesFrom, testWords } from '../../../../core/deliveryTest/wording';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { useUnsavedGuard } from '../../../../ui/forms/useUnsavedGuard';
import { Button } from '../../../../ui/primitives/Button';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { saveTestAction } from './actions';
import { ExpectationLine, newExpectation } from './ExpectationLine';
import { Pick, Seconds } from './parts';
import { StimulusLine } from './StimulusLine';
import type { TestChoices } from './testChoices';

interface Props {
  id?: string;
  name: string;
  content: DeliveryTest;
  everyMinutes?: number;
  guardsPublishing: boolean;
  choices: TestChoices;
}

const KINDS: [Expectation['expect'], string][] = [
  ['arrives', 'a text arrives at a handset'],
  ['routed', 'a route handles it'],
  ['told', 'an app accepts the event'],
  ['record', 'an app has one more record'],
  ['delivered', 'its receipt says delivered'],
  ['round-trip', 'the reply is back, receipt included'],
  ['once', 'nothing arrives a second time'],
  ['silence', 'nothing arrives at all'],
  ['refused', 'it is refused'],
];

/** A test as a sentence that is written where it stands. */
export function TestEditor({ id, choices, ...given }: Props) {
  const router = useRouter();
  const [name, setName] = useState(given.name);
  const [test, setTest] = useState(given.content);
  const [every, setEvery] = useState(given.everyMinutes);
  const [guards, setGuards] = useState(given.guardsPublishing);
  const [saving, startSaving] = useTransition();
  const written = JSON.stringify({ name, test, every, guards });
  const [saved, setSaved] = useState(written);
  useUnsavedGuard(written !== saved);
  const names = useMemo(
    () =>
      namesFrom(
        Object.fromEntries(
          [
            choices.phones,
            choices.channels,
            choices.apps,
            choices.routes,
            choices.hooks,
            choices.systems,
            choices.feeds,
            choices.records,
          ].flat(),
        ),
      ),
    [choices],
  );
  const change = (part: Partial<DeliveryTest>) => setTest({ ...test, ...part });
  const expectations = (list: Expectation[]) => change({ expectations: list });

  function save() {
    startSaving(async () => {
      const answer = await throughAsking(() =>
        saveTestAction({ name, content: test, everyMinutes: every, guardsPublishing: guards }, id),
      );
      if (answer.status === 'refused') return void toast.error(answer.message, { duration: 12_000 });
      setSaved(written);
      toast.success('Saved');
      if (!id && answer.status === 'done') router.push(`/prove/tests/${answer.values?.id}`);
    });
  }

  return (
    <div>
      <label className="mb-5 block">
        <span className="mb-1 block font-medium">Name</span>
        <input
          aria-label="Name of the test"
          className="w-full max-w-[60ch] rounded border border-line-strong bg-panel px-2.5 py-1.5"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <Section title="When" id="when">
        <Panel className="px-4 py-3">
          <StimulusLine
            stimulus={test.stimulus}
            choices={choices}
            onChange={(stimulus: Stimulus) => change({ stimulus })}
          />
        </Panel>
      </Section>
      <Section title="Then" id="then">
        <ol className="grid gap-2" aria-label="Expectations">
          {test.expectations.map((each, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines are told apart by their place
            <li key={index}>
              <Panel className="flex flex-wrap items-center justify-between gap-2 px-4 py-2">
                <ExpectationLine
                  expectation={each}
                  choices={choices}
                  onChange={(changed) =>
                    expectations(test.expectations.map((other, at) => (at === index ? changed : other)))
                  }
                />
                <Button
                  tone="quiet"
                  aria-label={`Remove expectation ${index + 1}`}
                  onClick={() => expectations(test.expectations.filter((_, at) => at !== index))}
                >
                  Remove
                </Button>
              </Panel>
            </li>
          ))}
        </ol>
        <div className="mt-2">
          <Pick
            label="And then"
            none="and then …"
            value=""
            options={KINDS}
            onChange={(kind) =>
              kind && expectations([...test.expectations, newExpectation(kind as Expectation['expect'], test, choices)])
            }
          />
        </div>
      </Section>
      <Section title="How often, and when" id="often">
        <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
          <span className="flex items-center gap-2">
            Repetitions
            <Seconds
              label="times in one run"
              unit="times in one run"
              value={test.times}
              most={20}
              onChange={(times) => change({ times })}
            />
          </span>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={test.pace !== undefined}
              onChange={(event) =>
                change({ pace: event.target.checked ? { percentile: 95, withinMs: 5000 } : undefined })
              }
            />
            and duration
          </label>
          {test.pace && (
            <span className="flex items-center gap-2">
              <Seconds
                label="percent of the rounds"
                unit="% of the rounds within"
                value={test.pace.percentile}
                most={100}
                onChange={(percentile) =>
                  change({ pace: { ...(test.pace as { withinMs: number }), percentile: Math.max(50, percentile) } })
                }
              />
              <Seconds
                label="milliseconds"
                unit="ms"
                value={test.pace.withinMs}
                most={600_000}
                onChange={(withinMs) => change({ pace: { ...(test.pace as { percentile: number }), withinMs } })}
              />
            </span>
          )}
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={every !== undefined}
              onChange={(event) => setEvery(event.target.checked ? 60 : undefined)}
            />
            automatically every
            {every !== undefined && (
              <Seconds label="minutes between runs" unit="minutes" value={every} most={10_080} onChange={setEvery} />
            )}
            {every === undefined && <span className="text-soft">so many minutes</span>}
          </label>
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={guards} onChange={(event) => setGuards(event.target.checked)} />
            required before publishing: a draft that would route its text elsewhere says so first
          </label>
        </div>
      </Section>
      <Panel className="sticky bottom-14 z-10 px-4 py-3 md:bottom-2">
        <p data-sentence className="max-w-[95ch]">
          {testWords(test, names)}
        </p>
        <div className="mt-3 flex items-center gap-3">
          <Button tone="primary" onClick={save} disabled={saving || written === saved}>
            {saving ? 'Saving…' : id ? 'Save changes' : 'Save the test'}
          </Button>
          {written !== saved && <span className="text-heather">◇ Not saved yet</span>}
        </div>
      </Panel>
    </div>
  );
}
