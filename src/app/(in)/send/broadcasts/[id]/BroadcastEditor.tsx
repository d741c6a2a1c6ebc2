'use client';

import { type ReactNode, useEffect, useState, useTransition } from 'react';
import { toast } from 'sonner';
import type { BroadcastDefinition } from '../../../../../core/broadcast/definition';
import { guessMapping } from '../../../../../core/templates/mapping';
import { allVariables } from '../../../../../core/templates/template';
import type { TemplateOffer } from '../../../../../operations/templates';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { MeasureLine } from '../../../../../ui/domain/MeasureLine';
import type { FormState } from '../../../../../ui/forms/formState';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { useUnsavedGuard } from '../../../../../ui/forms/useUnsavedGuard';
import { Button } from '../../../../../ui/primitives/Button';
import { IN_SIGHT, Panel } from '../../../../../ui/primitives/layout';
import { MappingFields } from '../../../apps/_parts/MappingFields';
import { saveBroadcastAction } from '../actions';
import { Counted, Parts } from './AudienceFields';
import { Figure, INPUT, Labelled, Part, SMALL, Tick } from './fields';
import { sentenceOf } from './sentence';
import { WhenFields } from './WhenFields';

interface Props {
  id: string;
  version: number;
  name: string;
  definition: BroadcastDefinition;
  channels: [string, string][];
  audiences: [string, string][];
  tags: string[];
  templates: readonly TemplateOffer[];
  /** What merge fields may name. */
  fields: string[];
  listLines: number;
  /** Names of contacts that are chosen by hand. */
  people: [string, string][];
  /** The form that gives it a list. */
  list: ReactNode;
  mayChange: boolean;
}

/** What a broadcast says, to whom, over what and when: as one sentence, and below it the parts of the sentence. */
export function BroadcastEditor(props: Props) {
  const { id, channels, audiences, templates, fields, listLines, list, mayChange } = props;
  const [name, setName] = useState(props.name);
  const [definition, setDefinition] = useState(props.definition);
  const [version, setVersion] = useState(props.version);
  const [state, setState] = useState<FormState>();
  const [busy, startTransition] = useTransition();
  const [saved, setSaved] = useState(JSON.stringify([props.name, props.definition]));
  const dirty = saved !== JSON.stringify([name, definition]);
  useUnsavedGuard(dirty);
  // Another plan or list makes another version of the same words.
  useEffect(() => setVersion(props.version), [props.version]);

  const { message, when, rules } = definition;
  const change = (part: Partial<BroadcastDefinition>) => setDefinition({ ...definition, ...part });
  const say = (part: Partial<BroadcastDefinition['message']>) => change({ message: { ...message, ...part } });
  const template = templates.find((each) => each.id === message.template?.id);
  const found = state?.status === 'refused' ? state : undefined;
  const sample = Object.fromEntries(fields.map((field) => [field, '']));

  function save(plan: boolean) {
    startTransition(async () => {
      const answer = await throughAsking(() => saveBroadcastAction(id, version, { name, definition, plan }));
      setState(answer);
      if (answer.status !== 'done') return;
      setVersion(Number(answer.values?.version ?? version));
      setSaved(JSON.stringify([name, definition]));
      toast.success(plan ? 'Saved; it is being planned' : 'Saved');
    });
  }

  return (
    <Panel className="p-4">
      <p className="mb-4 text-[15px] leading-relaxed" data-sentence>
        {sentenceOf(definition, { channels, audiences, templates, listLines }).map(({ words, place }, index) =>
          place ? (
            // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a sentence have no other name than their place
            <a key={index} href={`#${place}`} className="font-medium text-ridge underline underline-offset-4">
              {words}
            </a>
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: as above
            <span key={index}>{words}</span>
          ),
        )}
      </p>
      <fieldset disabled={!mayChange} className="grid gap-5">
        <Labelled label="Name">
          <input className={INPUT} value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>

        <Part id="message" title="Message">
          <Labelled label="Purpose">
            <select
              className={INPUT}
              value={message.purpose}
              onChange={(event) => say({ purpose: event.target.value as 'notice' })}
            >
              <option value="notice">a notice: about something they have or asked for</option>
              <option value="marketing">marketing: only to people whose consent is recorded</option>
            </select>
          </Labelled>
          {templates.length > 0 && (
            <Labelled label="Template">
              <select
                className={INPUT}
                value={message.template?.id ?? ''}
                onChange={(event) => {
                  const chosen = templates.find((each) => each.id === event.target.value);
                  say({
                    template: chosen && {
                      id: chosen.id,
                      mapping: guessMapping(allVariables(chosen.variants), fields),
                    },
                  });
                }}
              >
                <option value="">none: the text below</option>
                {templates.map((each) => (
                  <option key={each.id} value={each.id}>
                    {each.name}
                    {each.problem ? ' (cannot be sent yet)' : ''}
                  </option>
                ))}
              </select>
            </Labelled>
          )}
          {template && (
            <>
              <MappingFields
                template={template}
                mapping={message.template?.mapping ?? {}}
                onMapping={(mapping) => say({ template: { id: template.id, mapping } })}
                samples={[sample]}
                attributesOf={() => ({})}
                what="list"
              />
              <Tick
                label="Send it in another language to whoever reads none of its languages"
                checked={message.anyLanguage}
                onChange={(anyLanguage) => say({ anyLanguage })}
              />
            </>
          )}
          <Labelled label={template ? 'Text, for channels that do not carry the template' : 'Text'}>
            <textarea
              className={`${INPUT} font-mono text-[13px]`}
              rows={4}
              value={message.text}
              onChange={(event) => say({ text: event.target.value })}
            />
          </Labelled>
          <div className="flex flex-wrap items-center gap-3">
            <select
              aria-label="Merge field to insert"
              className={SMALL}
              value=""
              onChange={(event) => event.target.value && say({ text: `${message.text}{{ ${event.target.value} }}` })}
            >
              <option value="">Insert a merge field …</option>
              {fields.map((field) => (
                <option key={field}>{field}</option>
              ))}
            </select>
            <MeasureLine text={message.text} onFix={(text) => say({ text })} />
          </div>
          <Labelled
            label="Answers to press"
            help="With commas between them. Buttons where the channel shows such, words elsewhere."
          >
            <input
              className={INPUT}
              value={message.choices.join(', ')}
              onChange={(event) =>
                say({
                  choices: event.target.value
                    .split(',')
                    .map((each) => each.trimStart())
                    .filter((each, index, all) => each !== '' || (index === all.length - 1 && index > 0)),
                })
              }
              onBlur={() => say({ choices: message.choices.map((each) => each.trim()).filter(Boolean) })}
            />
          </Labelled>
        </Part>

        <Part id="audience" title="Audience">
          <Parts
            label="People"
            parts={definition.audience.include}
            {...props}
            onParts={(include) => change({ audience: { ...definition.audience, include } })}
          />
          <Parts
            label="Except"
            parts={definition.audience.exclude}
            {...props}
            listLines={0}
            onParts={(exclude) => change({ audience: { ...definition.audience, exclude } })}
          />
          <Counted id={id} definition={definition} />
          {list}
        </Part>

        <Part id="channels" title="Channels">
          {[0, 1, 2].map((place) =>
            place > definition.channels.length ? null : (
              <Labelled key={place} label={CHOICES[place] ?? ''}>
                <select
                  className={INPUT}
                  value={definition.channels[place] ?? ''}
                  onChange={(event) =>
                    change({
                      channels: [
                        ...definition.channels.slice(0, place),
                        ...(event.target.value ? [event.target.value] : []),
                        ...definition.channels.slice(place + 1),
                      ].filter((each, index, all) => all.indexOf(each) === index),
                    })
                  }
                >
                  <option value="">{place === 0 ? 'choose' : 'nothing else'}</option>
                  {channels.map(([value, words]) => (
                    <option key={value} value={value}>
                      {words}
                    </option>
                  ))}
                </select>
              </Labelled>
            ),
          )}
          <p className="text-[13px] text-soft">
            For each person the first over which they can be written to is taken; the plan says why it was another.
          </p>
        </Part>

        <Part id="when" title="Time">
          <WhenFields when={when} onWhen={(next) => change({ when: next })} />
          <Tick
            label="Keep quiet hours: nobody is written to at night"
            checked={definition.quietHours}
            onChange={(quietHours) => change({ quietHours })}
          />
          <Labelled label="Useful for">
            <select
              className={INPUT}
              value={definition.usefulMinutes ?? ''}
              onChange={(event) => change({ usefulMinutes: event.target.value ? Number(event.target.value) : null })}
            >
              <option value="">always</option>
              {USEFUL.map(([minutes, words]) => (
                <option key={minutes} value={minutes}>
                  {words}
                </option>
              ))}
            </select>
          </Labelled>
        </Part>

        <Part id="steps" title="First steps">
          <div className="grid gap-3 sm:grid-cols-2">
            <Figure
              label="So many go out alone first"
              value={rules.first}
              onValue={(first) => change({ rules: { ...rules, first } })}
            />
            <Figure
              label="Longest wait for their receipts, minutes"
              value={rules.waitMinutes}
              onValue={(waitMinutes) => change({ rules: { ...rules, waitMinutes } })}
            />
            <Figure
              label="Hold when more fail than, %"
              value={Math.round(rules.failed * 100)}
              onValue={(failed) => change({ rules: { ...rules, failed: failed / 100 } })}
            />
            <Figure
              label="Hold when more opt out than, %"
              value={Math.round(rules.optedOut * 100)}
              onValue={(optedOut) => change({ rules: { ...rules, optedOut: optedOut / 100 } })}
            />
          </div>
          <p className="text-[13px] text-soft">
            It goes on by itself when they arrived, and holds itself and says why when they did not. The same is watched
            to its end.
          </p>
        </Part>

        {found && (
          <div role="alert" className="rounded border border-clay px-3 py-2">
            <p className="font-medium text-clay">{found.message}</p>
            {found.findings.map(({ field, finding }) => (
              <FindingLine key={`${field} ${finding.code}`} finding={finding} />
            ))}
          </div>
        )}
        {mayChange && (
          <div className={`${IN_SIGHT} flex items-center gap-2`}>
            <Button tone="primary" disabled={busy} onClick={() => save(true)}>
              {busy ? 'Working…' : 'Save and plan it'}
            </Button>
            <Button disabled={busy || !dirty} onClick={() => save(false)}>
              Save
            </Button>
            {dirty && <span className="text-[13px] text-heather">not saved yet</span>}
          </div>
        )}
      </fieldset>
    </Panel>
  );
}

const CHOICES = ['Channel', 'Second choice', 'Third choice'];

const USEFUL: [number, string][] = [
  [60, 'an hour'],
  [240, 'four hours'],
  [720, 'twelve hours'],
  [1440, 'a day'],
  [4320, 'three days'],
];
