'use client';

import { useEffect, useId, useRef, useState } from 'react';
import { systemClock } from '../../../../../clock/clock';
import type { Draft, DraftInput, Question } from '../../../../../operations/profiles';
import { SeverityMark, severityColour } from '../../../../../ui/domain/Findings';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { Button } from '../../../../../ui/primitives/Button';
import { Section } from '../../../../../ui/primitives/layout';
import { draftProfileAction } from '../actions';
import { Choice, CONTROL, Words } from '../controls';
import { ProfileEditor } from '../ProfileEditor';

const NOTHING: DraftInput = { document: '', samples: [], answers: {}, secret: '' };
/** Milliseconds without a change after which the draft is made again. */
const PAUSE = 400;
/** Bytes; what is larger does not get to the server. */
const LARGEST = 900_000;
const NOT_MADE = { ok: false, message: 'The draft could not be made. Change something to try again.' } as const;

/** On the left what the provider publishes, on the right what is made of it; the editor takes over from there. */
export function Drafting() {
  const [input, setInput] = useState(NOTHING);
  const [draft, setDraft] = useState<Draft>();
  const [problem, setProblem] = useState('');
  const [editing, setEditing] = useState('');
  const latest = useRef(0);

  useEffect(() => {
    const mine = ++latest.current;
    if (input.document.trim() === '') {
      setDraft(undefined);
      return;
    }
    if (new Blob([JSON.stringify(input)]).size > LARGEST) {
      setProblem('Document and samples are larger than 900 KB together. Remove the paths that are not about messages.');
      return;
    }
    const timer = systemClock.after(PAUSE, async () => {
      const answer = await throughAsking(() => draftProfileAction(input)).catch(() => NOT_MADE);
      // An answer that was overtaken is of a text nobody sees any more.
      if (mine !== latest.current) return;
      setProblem(answer.ok ? '' : answer.message);
      if (answer.ok) setDraft(answer.draft);
    });
    return () => timer.cancel();
  }, [input]);

  const change = (part: Partial<DraftInput>) => setInput((before) => ({ ...before, ...part }));
  if (editing) return <ProfileEditor initial={editing} accounts={[]} />;
  return (
    <div className="grid gap-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div>
        <Given input={input} change={change} draft={draft} />
        {problem && <p className="text-[13px] text-clay">{problem}</p>}
      </div>
      <div data-draft={draft?.text ? 'made' : 'none'}>
        {draft?.text ? (
          <Made draft={draft} answers={input.answers} change={change} goOn={() => setEditing(draft.text)} />
        ) : (
          <p className="text-[13px] text-soft">
            The draft appears here once there is a document: which request sends, where text, sender and id are, what
            each status means, and what is not documented.
          </p>
        )}
      </div>
    </div>
  );
}

function Given({
  input,
  change,
  draft,
}: {
  input: DraftInput;
  change: (part: Partial<DraftInput>) => void;
  draft: Draft | undefined;
}) {
  const id = useId();
  const { document, samples } = input;
  const setSample = (index: number, part: Partial<DraftInput['samples'][number]>) =>
    change({ samples: samples.map((sample, at) => (at === index ? { ...sample, ...part } : sample)) });
  return (
    <>
      <Section title="The document" id="document" aside="OpenAPI 3.0 or 3.1, YAML or JSON">
        <label htmlFor={`${id}-text`} className="sr-only">
          OpenAPI document
        </label>
        <textarea
          id={`${id}-text`}
          rows={14}
          spellCheck={false}
          value={document}
          onChange={(event) => change({ document: event.target.value })}
          className={`${CONTROL} font-mono text-xs`}
        />
        <label htmlFor={`${id}-file`} className="mt-1 block text-[13px] text-soft">
          or from a file
        </label>
        <input
          id={`${id}-file`}
          type="file"
          accept=".yaml,.yml,.json"
          className="text-[13px]"
          onChange={async (event) => {
            const text = await event.target.files?.[0]?.text();
            if (text !== undefined) change({ document: text });
          }}
        />
        <div aria-live="polite" className="mt-2" data-mistakes={draft?.mistakes.length ?? 0}>
          {draft?.mistakes.map(({ place, problem, remedy, severity }) => (
            <p key={`${place?.from} ${problem}`} className="mt-1 text-[13px]">
              <SeverityMark severity={severity} />
              <span className={severityColour(severity)}>
                {place && `Line ${document.slice(0, place.from).split('\n').length}: `}
                {problem}
              </span>{' '}
              {remedy}
            </p>
          ))}
        </div>
      </Section>
      <Section title="Samples" id="samples" aside="Headers may stand above the body, with an empty line between">
        {samples.map((sample, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a sample is what stands at its place
          <div key={index} className="mb-3 rounded border border-line bg-panel p-3">
            <Choice
              label={`Sample ${index + 1} is`}
              value={sample.of}
              options={draft?.samplesOf ?? [['post', 'A post to us']]}
              set={(of) => setSample(index, { of })}
            />
            <Words
              label="Request or answer as it was"
              value={sample.text}
              long
              set={(text) => setSample(index, { text })}
            />
            <Button tone="quiet" onClick={() => change({ samples: samples.filter((_, at) => at !== index) })}>
              Remove sample {index + 1}
            </Button>
          </div>
        ))}
        <div className="flex items-end gap-3">
          <Button onClick={() => change({ samples: [...samples, { of: 'post', text: '' }] })}>Add a sample</Button>
          {samples.some(({ of }) => of === 'post') && (
            <div className="grow">
              <Words
                label="Webhook secret, to detect the signature; not stored"
                value={input.secret}
                secret
                set={(secret) => change({ secret })}
              />
            </div>
          )}
        </div>
      </Section>
    </>
  );
}

function Made({
  draft,
  answers,
  change,
  goOn,
}: {
  draft: Draft;
  answers: DraftInput['answers'];
  change: (part: Partial<DraftInput>) => void;
  goOn: () => void;
}) {
  const groups = [...new Set(draft.questions.map(({ group }) => group))];
  return (
    <>
      <Section title="Mapping" id="questions" aside="○ proposed · ● chosen by you">
        {groups.map((group) => {
          const questions = draft.questions.filter((question) => question.group === group);
          const lacking = questions.filter(({ must, value }) => must && value === '').length;
          return (
            <details key={group} open={lacking > 0} className="mb-2 rounded border border-line bg-panel">
              <summary className="cursor-pointer px-3 py-2 text-[13px] font-medium">
                {group}{' '}
                <span className={lacking > 0 ? 'text-clay' : 'font-normal text-soft'}>
                  {lacking > 0
                    ? `· ${lacking} missing`
                    : `· ${questions.filter(({ value }) => value !== '').length} of ${questions.length}`}
                </span>
              </summary>
              <div className="grid gap-2 border-t border-line p-3 sm:grid-cols-2">
                {questions.map((question) => (
                  <Asked
                    key={question.key}
                    question={question}
                    answer={(value) => change({ answers: { ...answers, [question.key]: value } })}
                  />
                ))}
              </div>
            </details>
          );
        })}
      </Section>
      <Section title="Not documented" id="unknown">
        <ul className="list-disc pl-5 text-[13px]">
          {draft.unknown.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </Section>
      <Section title="The profile" id="made">
        <pre tabIndex={0} className="max-h-72 overflow-auto rounded border border-line bg-panel p-2 font-mono text-xs">
          {draft.text}
        </pre>
        {draft.findings.map(({ problem }) => (
          <p key={problem} className="mt-1 text-[13px] text-clay">
            {problem}
          </p>
        ))}
        <div className="mt-3">
          <Button tone="primary" onClick={goOn}>
            Open in the editor
          </Button>
        </div>
      </Section>
    </>
  );
}

function Asked({ question, answer }: { question: Question; answer: (value: string) => void }) {
  const { label, must, options, proposed, value } = question;
  const mark = value === '' ? '' : proposed ? '○ ' : '● ';
  return (
    <Choice
      label={`${mark}${label}${must && value === '' ? ' (needed)' : ''}`}
      value={value}
      options={[['', must ? 'Choose…' : 'None'], ...options]}
      set={answer}
    />
  );
}
