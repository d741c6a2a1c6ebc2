'use client';

import { type Condition, type Group, isGroup } from '../../../../core/routing/conditions';
import type { OfficeHours } from '../../../../core/routing/hours';
import type { RouteChoices } from '../../../../core/routing/names';
import { Choice, Several, Small, Word, Words } from './fields';

interface Context {
  choices: RouteChoices;
  hours: readonly OfficeHours[];
}

const KINDS: readonly (readonly [Condition['on'], string, (context: Context) => Condition])[] = [
  ['channel', 'the channel', ({ choices }) => ({ on: 'channel', ids: choices.channels.slice(0, 1).map(([id]) => id) })],
  ['keyword', 'the words', () => ({ on: 'keyword', way: 'begins', words: [] })],
  ['sender', 'who sends it', () => ({ on: 'sender', known: false })],
  ['open', 'open tickets', ({ choices }) => ({ on: 'open', ...appRecord(choices.counted[0]?.[0]), count: 'none' })],
  ['tag', 'a tag', () => ({ on: 'tag', tag: '', has: true })],
  ['attribute', 'an attribute', () => ({ on: 'attribute', name: '', test: 'is', value: '' })],
  ['language', 'the language', ({ choices }) => ({ on: 'language', tags: choices.languages.slice(0, 1) })],
  ['media', 'a file', () => ({ on: 'media', has: true })],
  ['hours', 'office hours', ({ hours }) => ({ on: 'hours', id: hours[0]?.id ?? '', open: true })],
  ['conversation', 'the conversation', () => ({ on: 'conversation', states: ['new'] })],
  ['answers', 'what it answers', () => ({ on: 'answers', templates: [] })],
  ['button', 'a button', () => ({ on: 'button', labels: [] })],
];

function appRecord(pair = ' '): { app: string; record: string } {
  const [app = '', record = ''] = pair.split(' ');
  return { app, record };
}

export function GroupFields({
  group,
  context,
  onChange,
  depth = 1,
  onRemove,
}: {
  group: Group;
  context: Context;
  onChange: (group: Group) => void;
  depth?: number;
  onRemove?: () => void;
}) {
  const replace = (index: number, part: Condition | Group) =>
    onChange({ ...group, of: group.of.map((each, place) => (place === index ? part : each)) });
  const remove = (index: number) => onChange({ ...group, of: group.of.filter((_, place) => place !== index) });
  return (
    <fieldset className={depth > 1 ? 'rounded border border-line px-2 pb-2' : ''} data-group={depth}>
      <legend className="flex items-center gap-2 text-[13px]">
        When
        <Choice
          label={`Match of group ${depth}`}
          value={group.match}
          options={[
            ['all', 'all of these hold'],
            ['any', 'any of these holds'],
            ['none', 'none of these holds'],
          ]}
          onChange={(match) => onChange({ ...group, match })}
        />
        {onRemove && <Small onClick={onRemove}>Remove the group</Small>}
      </legend>
      <ul className="mt-1.5 grid gap-1.5">
        {group.of.map((part, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a condition is what stands at its place
          <li key={index}>
            {isGroup(part) ? (
              <GroupFields
                group={part}
                context={context}
                depth={depth + 1}
                onChange={(changed) => replace(index, changed)}
                onRemove={() => remove(index)}
              />
            ) : (
              <div className="flex flex-wrap items-center gap-2" data-condition={part.on}>
                <Choice
                  label="Looks at"
                  value={part.on}
                  options={KINDS.map(([on, words]) => [on, words] as const)}
                  onChange={(on) => {
                    const fresh = KINDS.find(([each]) => each === on)?.[2];
                    if (fresh) replace(index, fresh(context));
                  }}
                />
                <ConditionFields condition={part} context={context} onChange={(changed) => replace(index, changed)} />
                <Small label={`Remove condition ${index + 1}`} onClick={() => remove(index)}>
                  Remove
                </Small>
              </div>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-1.5 flex gap-2">
        <Small onClick={() => onChange({ ...group, of: [...group.of, { on: 'keyword', way: 'begins', words: [] }] })}>
          Add a condition
        </Small>
        {depth < 3 && (
          <Small onClick={() => onChange({ ...group, of: [...group.of, { match: 'any', of: [] }] })}>Add a group</Small>
        )}
      </div>
    </fieldset>
  );
}

function ConditionFields({
  condition,
  context: { choices, hours },
  onChange,
}: {
  condition: Condition;
  context: Context;
  onChange: (condition: Condition) => void;
}) {
  switch (condition.on) {
    case 'channel':
      return (
        <Several
          label="Channels"
          values={condition.ids}
          options={choices.channels}
          onChange={(ids) => onChange({ ...condition, ids })}
        />
      );
    case 'keyword':
      return (
        <>
          <Choice
            label="How the words are looked for"
            value={condition.way}
            options={[
              ['exact', 'are exactly'],
              ['begins', 'begin with'],
              ['contains', 'contain the word'],
              ['pattern', 'fit the pattern'],
            ]}
            onChange={(way) => onChange({ ...condition, way })}
          />
          {condition.way === 'pattern' ? (
            <Word
              label="pattern"
              size={26}
              value={condition.words[0] ?? ''}
              onChange={(word) => onChange({ ...condition, words: word ? [word] : [] })}
            />
          ) : (
            <Words label="words" values={condition.words} onChange={(words) => onChange({ ...condition, words })} />
          )}
        </>
      );
    case 'sender':
      return (
        <Choice
          label="Known or not"
          value={condition.known ? 'yes' : 'no'}
          options={[
            ['yes', 'is a contact'],
            ['no', 'is not a contact'],
          ]}
          onChange={(known) => onChange({ ...condition, known: known === 'yes' })}
        />
      );
    case 'open':
      return (
        <>
          <Choice
            label="Counted where"
            value={`${condition.app} ${condition.record}`}
            options={choices.counted}
            onChange={(pair) => onChange({ ...condition, ...appRecord(pair) })}
          />
          <Choice
            label="How many"
            value={condition.count}
            options={[
              ['none', 'none is open'],
              ['one', 'one is open'],
              ['several', 'several are open'],
              ['unknown', 'the app does not say'],
            ]}
            onChange={(count) => onChange({ ...condition, count })}
          />
        </>
      );
    case 'tag':
      return (
        <>
          <Choice
            label="Has or lacks"
            value={condition.has ? 'has' : 'lacks'}
            options={[
              ['has', 'the sender has'],
              ['lacks', 'the sender lacks'],
            ]}
            onChange={(has) => onChange({ ...condition, has: has === 'has' })}
          />
          <Word
            label="tag"
            value={condition.tag}
            offered={choices.tags}
            onChange={(tag) => onChange({ ...condition, tag: tag.toLowerCase() })}
          />
        </>
      );
    case 'attribute':
      return (
        <>
          <Word
            label="attribute"
            value={condition.name}
            offered={choices.attributes}
            onChange={(name) => onChange({ ...condition, name })}
          />
          <Choice
            label="How it compares"
            value={condition.test}
            options={[
              ['is', 'is'],
              ['is-not', 'is not'],
              ['over', 'is over'],
              ['under', 'is under'],
              ['known', 'is known'],
              ['unknown', 'is not known'],
            ]}
            onChange={(test) => onChange({ ...condition, test })}
          />
          {condition.test !== 'known' && condition.test !== 'unknown' && (
            <Word label="value" value={condition.value ?? ''} onChange={(value) => onChange({ ...condition, value })} />
          )}
        </>
      );
    case 'language':
      return (
        <Words label="language tags" values={condition.tags} onChange={(tags) => onChange({ ...condition, tags })} />
      );
    case 'media':
      return (
        <Choice
          label="With or without"
          value={condition.has ? 'with' : 'without'}
          options={[
            ['with', 'comes with it'],
            ['without', 'does not come with it'],
          ]}
          onChange={(has) => onChange({ ...condition, has: has === 'with' })}
        />
      );
    case 'hours':
      return (
        <>
          <Choice
            label="Which hours"
            value={condition.id}
            options={hours.map(({ id, name }) => [id, name] as const)}
            onChange={(id) => onChange({ ...condition, id })}
          />
          <Choice
            label="Open or closed"
            value={condition.open ? 'open' : 'closed'}
            options={[
              ['open', 'is open'],
              ['closed', 'is closed'],
            ]}
            onChange={(open) => onChange({ ...condition, open: open === 'open' })}
          />
        </>
      );
    case 'conversation':
      return (
        <Several
          label="States"
          values={condition.states}
          options={[
            ['new', 'is new'],
            ['open', 'is open'],
            ['waiting', 'waits for them'],
            ['closed', 'is closed'],
          ]}
          onChange={(states) => onChange({ ...condition, states: states as typeof condition.states })}
        />
      );
    case 'answers':
      return (
        <Several
          label="Templates"
          values={condition.templates}
          options={choices.answerable}
          onChange={(templates) => onChange({ ...condition, templates })}
        />
      );
    case 'button':
      return (
        <Words label="labels" values={condition.labels} onChange={(labels) => onChange({ ...condition, labels })} />
      );
  }
}
