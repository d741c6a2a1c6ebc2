'use client';
import type { RouteStep } from '../../../../core/routing/route';
import { minutesWords } from '../../../../core/routing/wording';
import { MappingFields } from '../../apps/_parts/MappingFields';
import { GroupFields } from './ConditionFields';
import { Choice, Small, Word, Words } from './fields';
import { guessesFor, KINDS, SAMPLE, type StepContext } from './stepKinds';
import { AssigneeFields, Branch, Minutes, Text } from './stepParts';

export function StepsFields({
  steps,
  context,
  onChange,
  label,
  depth = 0,
}: {
  steps: readonly RouteStep[];
  context: StepContext;
  onChange: (steps: RouteStep[]) => void;
  label: string;
  depth?: number;
}) {
  const replace = (index: number, step: RouteStep) =>
    onChange(steps.map((each, place) => (place === index ? step : each)));
  const remove = (index: number) => onChange(steps.filter((_, place) => place !== index));
  const move = (index: number, by: number) => {
    const next = [...steps];
    const [taken] = next.splice(index, 1);
    if (taken) next.splice(index + by, 0, taken);
    onChange(next);
  };
  return (
    <div>
      <ol className="grid gap-1.5" aria-label={label}>
        {steps.map((step, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a step is what stands at its place
          <li key={index} className="rounded border border-line px-2 py-1.5" data-step={step.do}>
            <div className="flex flex-wrap items-center gap-2">
              <Choice
                label="Step"
                value={step.do === 'reply' && 'template' in step ? 'template' : step.do}
                options={KINDS.map(([kind, words]) => [kind, words] as const)}
                onChange={(kind) => {
                  const fresh = KINDS.find(([each]) => each === kind)?.[2];
                  if (fresh) replace(index, fresh(context));
                }}
              />
              <StepFields step={step} context={context} onChange={(changed) => replace(index, changed)} />
              <span className="ml-auto flex">
                <Small label={`Move step ${index + 1} up`} disabled={index === 0} onClick={() => move(index, -1)}>
                  ↑
                </Small>
                <Small
                  label={`Move step ${index + 1} down`}
                  disabled={index === steps.length - 1}
                  onClick={() => move(index, 1)}
                >
                  ↓
                </Small>
                <Small label={`Remove step ${index + 1}`} onClick={() => remove(index)}>
                  Remove
                </Small>
              </span>
            </div>
            <Inner step={step} context={context} depth={depth} onChange={(changed) => replace(index, changed)} />
          </li>
        ))}
      </ol>
      <div className="mt-1">
        <Small onClick={() => onChange([...steps, { do: 'reply', text: '' }])}>Add a step</Small>
        {steps.length === 0 && depth > 0 && (
          <span className="text-[13px] text-soft">goes on with what comes after</span>
        )}
      </div>
    </div>
  );
}

function StepFields({
  step,
  context,
  onChange,
}: {
  step: RouteStep;
  context: StepContext;
  onChange: (step: RouteStep) => void;
}) {
  const { choices } = context;
  switch (step.do) {
    case 'reply':
      return 'template' in step ? (
        <Choice
          label="Template"
          value={step.template}
          options={choices.templates}
          onChange={(template) =>
            onChange({
              ...step,
              template,
              mapping: guessesFor(choices.offers.find(({ id }) => id === template)?.variants ?? []),
            })
          }
        />
      ) : null;
    case 'ask':
      return (
        <>
          <Minutes label="Waits" value={step.minutes} onChange={(minutes) => onChange({ ...step, minutes })} />
          <span className="text-[13px] text-soft">and keeps the answer as</span>
          <Word
            label="attribute of the answer"
            value={step.keep}
            offered={choices.attributes}
            onChange={(keep) => onChange({ ...step, keep })}
          />
        </>
      );
    case 'wait':
      return <Minutes label="Waits" value={step.minutes} onChange={(minutes) => onChange({ ...step, minutes })} />;
    case 'assign':
      return <AssigneeFields whom={step.whom} choices={choices} onChange={(whom) => onChange({ ...step, whom })} />;
    case 'record':
      return (
        <Choice
          label="Record action"
          value={step.action}
          options={choices.actions}
          onChange={(action) => onChange({ ...step, action })}
        />
      );
    case 'tag':
      return (
        <>
          <Choice
            label="On or off"
            value={step.remove ? 'off' : 'on'}
            options={[
              ['on', 'with'],
              ['off', 'no longer with'],
            ]}
            onChange={(on) => onChange({ ...step, remove: on === 'off' })}
          />
          <Word
            label="tag"
            value={step.tag}
            offered={choices.tags}
            onChange={(tag) => onChange({ ...step, tag: tag.toLowerCase() })}
          />
        </>
      );
    case 'attribute':
      return (
        <>
          <Word
            label="attribute"
            value={step.name}
            offered={choices.attributes}
            onChange={(name) => onChange({ ...step, name })}
          />
          to
          <Word
            label="value or {{ field }}"
            size={24}
            value={step.value}
            onChange={(value) => onChange({ ...step, value })}
          />
        </>
      );
    case 'tell':
      return (
        <Choice label="App" value={step.app} options={choices.apps} onChange={(app) => onChange({ ...step, app })} />
      );
    case 'append':
      return (
        <Choice
          label="Sheet"
          value={step.sheet}
          options={choices.sheets}
          onChange={(sheet) => onChange({ ...step, sheet })}
        />
      );
    case 'notify':
      return (
        <>
          <Words label="e-mail addresses" values={step.to} onChange={(to) => onChange({ ...step, to })} />
          <Word label="subject" size={24} value={step.subject} onChange={(subject) => onChange({ ...step, subject })} />
        </>
      );
    default:
      return null;
  }
}

/** What needs a line or more of its own. */
function Inner({
  step,
  context,
  depth,
  onChange,
}: {
  step: RouteStep;
  context: StepContext;
  depth: number;
  onChange: (step: RouteStep) => void;
}) {
  const deeper = { context, depth: depth + 1 };
  if (step.do === 'reply' && !('template' in step))
    return <Text label="Text of the reply" value={step.text} onChange={(text) => onChange({ ...step, text })} />;
  if (step.do === 'reply' && 'template' in step) {
    const offer = context.choices.offers.find(({ id }) => id === step.template);
    return offer ? (
      <div className="mt-1.5">
        <MappingFields
          template={offer}
          mapping={step.mapping}
          onMapping={(mapping) => onChange({ ...step, mapping })}
          samples={[SAMPLE]}
          attributesOf={() => SAMPLE.contact}
          what="message"
        />
      </div>
    ) : null;
  }
  if (step.do === 'notify')
    return <Text label="Text of the mail" plain value={step.text} onChange={(text) => onChange({ ...step, text })} />;
  if (step.do === 'ask')
    return (
      <>
        <Text label="Question" value={step.text} onChange={(text) => onChange({ ...step, text })} />
        <div className="mt-1 grid gap-2 border-l-2 border-line pl-3">
          {step.answers.map((answer, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an answer is what stands at its place
            <div key={index}>
              <div className="flex flex-wrap items-center gap-2 text-[13px]">
                If they answer
                <Words
                  label={`words of answer ${index + 1}`}
                  values={answer.words}
                  onChange={(words) =>
                    onChange({
                      ...step,
                      answers: step.answers.map((each, place) => (place === index ? { ...each, words } : each)),
                    })
                  }
                />
                <Small
                  onClick={() => onChange({ ...step, answers: step.answers.filter((_, place) => place !== index) })}
                >
                  Remove
                </Small>
              </div>
              <StepsFields
                {...deeper}
                label={`Steps of answer ${index + 1}`}
                steps={answer.steps}
                onChange={(steps) =>
                  onChange({
                    ...step,
                    answers: step.answers.map((each, place) => (place === index ? { ...each, steps } : each)),
                  })
                }
              />
            </div>
          ))}
          <Small onClick={() => onChange({ ...step, answers: [...step.answers, { words: [], steps: [] }] })}>
            Add an answer
          </Small>
          <Branch words={step.answers.length > 0 ? 'Any other answer' : 'Whatever they answer'}>
            <StepsFields
              {...deeper}
              label="Steps of any other answer"
              steps={step.otherwise}
              onChange={(otherwise) => onChange({ ...step, otherwise })}
            />
          </Branch>
          <Branch words={`No answer within ${minutesWords(step.minutes)}`}>
            <StepsFields
              {...deeper}
              label="Steps without an answer"
              steps={step.late}
              onChange={(late) => onChange({ ...step, late })}
            />
          </Branch>
        </div>
      </>
    );
  if (step.do === 'branch')
    return (
      <div className="mt-1 grid gap-2 border-l-2 border-line pl-3">
        {step.cases.map((each, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a case is what stands at its place
          <div key={index}>
            <GroupFields
              group={each.when}
              context={context}
              depth={2}
              onChange={(when) =>
                onChange({
                  ...step,
                  cases: step.cases.map((other, place) => (place === index ? { ...other, when } : other)),
                })
              }
              onRemove={
                step.cases.length > 1
                  ? () => onChange({ ...step, cases: step.cases.filter((_, place) => place !== index) })
                  : undefined
              }
            />
            <StepsFields
              {...deeper}
              label={`Steps of case ${index + 1}`}
              steps={each.steps}
              onChange={(steps) =>
                onChange({
                  ...step,
                  cases: step.cases.map((other, place) => (place === index ? { ...other, steps } : other)),
                })
              }
            />
          </div>
        ))}
        <Small
          onClick={() => onChange({ ...step, cases: [...step.cases, { when: { match: 'all', of: [] }, steps: [] }] })}
        >
          Add a case
        </Small>
        <Branch words="Otherwise">
          <StepsFields
            {...deeper}
            label="Steps otherwise"
            steps={step.otherwise}
            onChange={(otherwise) => onChange({ ...step, otherwise })}
          />
        </Branch>
      </div>
    );
  return null;
}
