'use client';

import { type Condition, conditionKinds, kindOf } from '../../../../core/routing/conditions';
import type { ConditionField, Offered } from '../../../../core/routing/conditions/kind';
import { type Group, isGroup } from '../../../../core/routing/group';
import { Choice, Several, Small, Word, Words } from './fields';

export function GroupFields({
  group,
  context,
  onChange,
  depth = 1,
  onRemove,
}: {
  group: Group;
  context: Offered;
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
                  options={conditionKinds.map(({ on, label }) => [on, label] as const)}
                  onChange={(on) => replace(index, kindOf({ on }).fresh(context))}
                />
                {kindOf(part).fields.map(
                  (field) =>
                    (field.when?.(part) ?? true) && (
                      <OneField
                        key={field.label}
                        field={field}
                        condition={part}
                        context={context}
                        onChange={(changed) => replace(index, changed)}
                      />
                    ),
                )}
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

function OneField({
  field,
  condition,
  context,
  onChange,
}: {
  field: ConditionField<Condition>;
  condition: Condition;
  context: Offered;
  onChange: (condition: Condition) => void;
}) {
  switch (field.control) {
    case 'choice':
      return (
        <Choice
          label={field.label}
          value={field.value(condition)}
          options={field.options(context)}
          onChange={(value) => onChange(field.set(condition, value))}
        />
      );
    case 'several':
      return (
        <Several
          label={field.label}
          values={field.value(condition)}
          options={field.options?.(context) ?? []}
          onChange={(values) => onChange(field.set(condition, values))}
        />
      );
    case 'words':
      return (
        <Words
          label={field.label}
          values={field.value(condition)}
          onChange={(values) => onChange(field.set(condition, values))}
        />
      );
    case 'word':
      return (
        <Word
          label={field.label}
          size={field.size}
          value={field.value(condition)}
          offered={field.suggestions?.(context)}
          onChange={(value) => onChange(field.set(condition, value))}
        />
      );
  }
}
