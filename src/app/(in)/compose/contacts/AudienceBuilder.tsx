'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { systemClock } from '../../../../clock/clock';
import { CONSENT_WAYS, WAY_WORDS } from '../../../../core/consent/ways';
import { type Condition, type Group, inWords, isGroup } from '../../../../core/contacts/audience';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { TypedSearch } from '../../../../ui/list/TypedSearch';
import { Button } from '../../../../ui/primitives/Button';
import { Panel } from '../../../../ui/primitives/layout';
import { countAudienceAction, removeAudienceAction, saveAudienceAction } from './actions';

interface Props {
  present?: { id?: string; name?: string; conditions: Group };
  audiences: [string, string][];
  search: string;
  mayKeep: boolean;
}

const INPUT = 'rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';
const NEW: Condition = { on: 'tag', is: 'has', tag: '' };

/** Looks for people: by name or number at once, or by conditions in groups, counted as they are written. */
export function AudienceBuilder({ present, audiences, search, mayKeep }: Props) {
  const router = useRouter();
  const [group, setGroup] = useState<Group>(present?.conditions ?? { match: 'all', of: [] });
  const [open, setOpen] = useState(present !== undefined && present.id === undefined);
  const [count, setCount] = useState<{ count: number } | { problem: string }>();
  const whole = isWhole(group);

  useEffect(() => {
    if (!open || !whole) return setCount(undefined);
    const timer = systemClock.after(300, async () => setCount(await throughAsking(() => countAudienceAction(group))));
    return timer.cancel;
  }, [group, open, whole]);

  const go = (query: Record<string, string>, step = true) => {
    const address = `/compose/contacts${Object.keys(query).length > 0 ? `?${new URLSearchParams(query)}` : ''}`;
    if (step) router.push(address);
    else router.replace(address, { scroll: false });
  };

  return (
    <Panel className="mb-4 grid gap-3 p-3">
      <form
        aria-label="Find contacts"
        className="flex flex-wrap items-center gap-3"
        onSubmit={(event) => event.preventDefault()}
      >
        <TypedSearch
          label="Name or number"
          placeholder="Name or number"
          value={search}
          onSearch={(words, step) => go(words ? { q: words } : {}, step)}
          className={`${INPUT} w-64`}
        />
        <label className="flex items-center gap-2 text-[13px]">
          Audience
          <select
            className={INPUT}
            value={present?.id ?? ''}
            onChange={(event) => go(event.target.value ? { audience: event.target.value } : {})}
          >
            <option value="">everybody</option>
            {audiences.map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <Button tone="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Close the conditions' : 'By conditions'}
        </Button>
        {present?.id && mayKeep && (
          <ActionButton
            tone="quiet"
            action={removeAudienceAction.bind(null, present.id)}
            confirm={{
              title: `Remove the audience ${present.name}?`,
              consequence: 'The people in it stay.',
              go: 'Remove it',
            }}
          >
            Remove the audience
          </ActionButton>
        )}
      </form>
      {present && !open && <p className="text-[13px] text-soft">Where: {inWords(present.conditions)}.</p>}
      {open && (
        <>
          <GroupFields group={group} depth={1} onChange={setGroup} />
          <div className="flex flex-wrap items-center gap-3 text-[13px]">
            <Button tone="primary" disabled={!whole} onClick={() => go({ who: JSON.stringify(group) })}>
              Show them
            </Button>
            {mayKeep && whole && group.of.length > 0 && (
              <DialogForm
                open="Keep as an audience"
                title="Keep as an audience"
                description={inWords(group)}
                submit="Keep"
                action={saveAudienceAction.bind(null, group)}
              >
                <TextField name="name" label="Name" initial={present?.name} help="One of the same name is replaced." />
              </DialogForm>
            )}
            <span aria-live="polite" data-counted={count && 'count' in count ? count.count : undefined}>
              {!whole
                ? 'Fill every condition.'
                : count === undefined
                  ? ''
                  : 'problem' in count
                    ? count.problem
                    : `${count.count.toLocaleString('en')} ${count.count === 1 ? 'person fits' : 'people fit'}.`}
            </span>
          </div>
        </>
      )}
    </Panel>
  );
}

function GroupFields({
  group,
  depth,
  onChange,
  onRemove,
}: {
  group: Group;
  depth: number;
  onChange: (group: Group) => void;
  onRemove?: () => void;
}) {
  const replace = (index: number, entry: Condition | Group) =>
    onChange({ ...group, of: group.of.map((each, place) => (place === index ? entry : each)) });
  const remove = (index: number) => onChange({ ...group, of: group.of.filter((_, place) => place !== index) });
  return (
    <fieldset className={depth > 1 ? 'rounded border border-line p-2' : ''}>
      <legend className="flex items-center gap-2 px-1 text-[13px]">
        Those of whom
        <select
          aria-label={`Match of group ${depth}`}
          className={INPUT}
          value={group.match}
          onChange={(event) => onChange({ ...group, match: event.target.value as Group['match'] })}
        >
          <option value="all">all</option>
          <option value="any">any</option>
        </select>
        holds:
        {onRemove && (
          <Button tone="quiet" className="h-7" onClick={onRemove}>
            Remove the group
          </Button>
        )}
      </legend>
      <div className="mt-2 grid gap-2">
        {group.of.map((entry, index) =>
          isGroup(entry) ? (
            <GroupFields
              // biome-ignore lint/suspicious/noArrayIndexKey: a condition is what stands at its place
              key={index}
              group={entry}
              depth={depth + 1}
              onChange={(changed) => replace(index, changed)}
              onRemove={() => remove(index)}
            />
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: a condition is what stands at its place
            <div key={index} className="flex flex-wrap items-center gap-2" data-condition={entry.on}>
              <ConditionFields condition={entry} onChange={(changed) => replace(index, changed)} />
              <Button
                tone="quiet"
                className="h-7"
                aria-label={`Remove condition ${index + 1}`}
                onClick={() => remove(index)}
              >
                Remove
              </Button>
            </div>
          ),
        )}
        <div className="flex gap-2">
          <Button className="h-7" onClick={() => onChange({ ...group, of: [...group.of, NEW] })}>
            Add a condition
          </Button>
          {depth < 3 && (
            <Button
              tone="quiet"
              className="h-7"
              onClick={() => onChange({ ...group, of: [...group.of, { match: 'any', of: [NEW] }] })}
            >
              Add a group
            </Button>
          )}
        </div>
      </div>
    </fieldset>
  );
}

const KINDS: [Condition['on'], string, Condition][] = [
  ['tag', 'a tag', NEW],
  ['attribute', 'an attribute', { on: 'attribute', name: '', is: 'equals', value: '' }],
  ['consent', 'agreement', { on: 'consent', way: 'text', is: 'given' }],
  ['country', 'the country', { on: 'country', is: 'one of', values: [] }],
  ['language', 'the language', { on: 'language', is: 'one of', values: [] }],
  ['wrote', 'when they wrote', { on: 'wrote', is: 'within', days: 30 }],
  ['window', 'the reply window', { on: 'window', is: 'open', hours: 24 }],
];

function ConditionFields({ condition, onChange }: { condition: Condition; onChange: (condition: Condition) => void }) {
  const choice = (
    label: string,
    value: string,
    options: readonly (readonly [string, string])[],
    chosen: (value: string) => void,
  ) => (
    <select aria-label={label} className={INPUT} value={value} onChange={(event) => chosen(event.target.value)}>
      {options.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
  const input = (label: string, value: string, written: (value: string) => void, size = 14) => (
    <input
      aria-label={label}
      placeholder={label}
      className={INPUT}
      size={size}
      value={value}
      onChange={(event) => written(event.target.value)}
    />
  );
  const kind = choice(
    'What it is about',
    condition.on,
    KINDS.map(([on, words]) => [on, words] as const),
    (on) => {
      const fresh = KINDS.find(([each]) => each === on)?.[2];
      if (fresh) onChange(fresh);
    },
  );
  const fields = () => {
    switch (condition.on) {
      case 'tag':
        return (
          <>
            {choice(
              'Has or lacks',
              condition.is,
              [
                ['has', 'is there:'],
                ['lacks', 'is not there:'],
              ],
              (is) => onChange({ ...condition, is: is as 'has' }),
            )}
            {input('tag', condition.tag, (tag) => onChange({ ...condition, tag: tag.toLowerCase() }))}
          </>
        );
      case 'attribute':
        return (
          <>
            {input('attribute', condition.name, (name) => onChange({ ...condition, name: name.toLowerCase() }))}
            {choice(
              'How it compares',
              condition.is,
              [
                ['equals', 'is'],
                ['differs', 'is not'],
                ['contains', 'contains'],
                ['above', 'is above'],
                ['below', 'is below'],
                ['set', 'is known'],
                ['unset', 'is not known'],
              ],
              (is) =>
                onChange(
                  is === 'set' || is === 'unset'
                    ? { on: 'attribute', name: condition.name, is }
                    : {
                        on: 'attribute',
                        name: condition.name,
                        is: is as 'equals',
                        value: 'value' in condition ? condition.value : '',
                      },
                ),
            )}
            {'value' in condition && input('value', condition.value, (value) => onChange({ ...condition, value }))}
          </>
        );
      case 'consent':
        return (
          <>
            {choice(
              'Consent',
              condition.is,
              [
                ['given', 'they opted in to'],
                ['withdrawn', 'they opted out of'],
                ['unknown', 'no consent is recorded for'],
              ],
              (is) => onChange({ ...condition, is: is as 'given' }),
            )}
            {choice(
              'For which messages',
              condition.way,
              CONSENT_WAYS.map((way) => [way, WAY_WORDS[way]] as const),
              (way) => onChange({ ...condition, way: way as 'text' }),
            )}
          </>
        );
      case 'country':
      case 'language':
        return (
          <>
            {choice(
              'Is or is not',
              condition.is,
              [
                ['one of', 'is one of'],
                ['none of', 'is none of'],
              ],
              (is) => onChange({ ...condition, is: is as 'one of' }),
            )}
            {input(condition.on === 'country' ? 'GB, SE' : 'en, sv', condition.values.join(', '), (text) => {
              const values = text.split(',').map((each) => each.trim());
              onChange({
                ...condition,
                values: condition.on === 'country' ? values.map((value) => value.toUpperCase()) : values,
              });
            })}
          </>
        );
      case 'wrote':
        return (
          <>
            {choice(
              'Within or not',
              condition.is,
              [
                ['within', 'they wrote within'],
                ['not within', 'they did not write within'],
              ],
              (is) => onChange({ ...condition, is: is as 'within' }),
            )}
            {input(
              'days',
              String(condition.days || ''),
              (days) => onChange({ ...condition, days: Number(days) || 0 }),
              4,
            )}{' '}
            days
          </>
        );
      case 'window':
        return (
          <>
            {choice(
              'Open or closed',
              condition.is,
              [
                ['open', 'is open'],
                ['closed', 'is closed'],
              ],
              (is) => onChange({ ...condition, is: is as 'open' }),
            )}{' '}
            of{' '}
            {input(
              'hours',
              String(condition.hours || ''),
              (hours) => onChange({ ...condition, hours: Number(hours) || 0 }),
              4,
            )}{' '}
            hours
          </>
        );
    }
  };
  return (
    <>
      {kind}
      {fields()}
    </>
  );
}

function isWhole(group: Group): boolean {
  return group.of.every((entry) => {
    if (isGroup(entry)) return entry.of.length > 0 && isWhole(entry);
    if (entry.on === 'tag') return entry.tag.trim() !== '';
    if (entry.on === 'attribute') return entry.name.trim() !== '' && (!('value' in entry) || entry.value !== '');
    if (entry.on === 'country' || entry.on === 'language')
      return entry.values.length > 0 && entry.values.every(Boolean);
    if (entry.on === 'wrote') return entry.days > 0;
    return entry.on !== 'window' || entry.hours > 0;
  });
}
