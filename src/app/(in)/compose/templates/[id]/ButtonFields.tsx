'use client';

import type { FindingPart, TemplateFinding } from '../../../../../core/templates/finding';
import type { TemplateRules } from '../../../../../core/templates/rules';
import type { ButtonKind, Button as Pressed } from '../../../../../core/templates/template';
import { MarkedText } from '../../../../../ui/compose/MarkedText';
import { Button } from '../../../../../ui/primitives/Button';

interface Props {
  buttons: readonly Pressed[];
  rules: TemplateRules;
  at: (part: FindingPart) => TemplateFinding[];
  onChange: (buttons: Pressed[]) => void;
  readOnly: boolean;
}

const KINDS: [ButtonKind, string][] = [
  ['link', 'Opens a link'],
  ['call', 'Calls a number'],
  ['quick-reply', 'Answers'],
];

export function ButtonFields({ buttons, rules, at, onChange, readOnly }: Props) {
  const replace = (index: number, button: Pressed) =>
    onChange(buttons.map((each, place) => (place === index ? button : each)));
  return (
    <fieldset className="grid gap-3">
      <legend className="mb-1 font-medium">Buttons</legend>
      {buttons.map((button, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a button is what stands at its place
        <div key={index} className="grid gap-2 rounded border border-line p-3 sm:grid-cols-[11rem_minmax(0,1fr)_auto]">
          <div>
            <label className="mb-1 block font-medium" htmlFor={`button-${index}-kind`}>
              Action
            </label>
            <select
              id={`button-${index}-kind`}
              disabled={readOnly}
              value={button.kind}
              className="w-full rounded border border-line-strong bg-panel px-2 py-1.5"
              onChange={(event) => replace(index, ofKind(event.target.value as ButtonKind, button))}
            >
              {KINDS.map(([kind, words]) => (
                <option key={kind} value={kind} disabled={(rules.buttons.mostOf[kind] ?? 0) === 0}>
                  {words}
                </option>
              ))}
            </select>
          </div>
          <div className="grid gap-2">
            <MarkedText
              label="Label"
              value={button.label}
              readOnly={readOnly}
              onValue={(label) => replace(index, { ...button, label })}
              findings={at(`button-${index}-label`)}
            />
            {button.kind !== 'quick-reply' && (
              <MarkedText
                label={button.kind === 'link' ? 'Link' : 'Number'}
                exact
                value={button.target}
                readOnly={readOnly}
                onValue={(target) => replace(index, { ...button, target })}
                findings={at(`button-${index}-target`)}
                help={button.kind === 'link' ? 'It may end in a variable: https://…/{{ booking }}' : undefined}
              />
            )}
          </div>
          {!readOnly && (
            <Button
              tone="quiet"
              aria-label={`Remove button ${index + 1}`}
              onClick={() => onChange(buttons.filter((_, place) => place !== index))}
            >
              Remove
            </Button>
          )}
        </div>
      ))}
      {!readOnly && buttons.length < rules.buttons.most && (
        <div>
          <Button
            tone="quiet"
            className="px-0"
            onClick={() => onChange([...buttons, { kind: 'quick-reply', label: '' }])}
          >
            Add a button
          </Button>
        </div>
      )}
    </fieldset>
  );
}

function ofKind(kind: ButtonKind, { label, ...button }: Pressed): Pressed {
  const target = 'target' in button ? (button.target as string) : kind === 'link' ? 'https://' : '+';
  return kind === 'quick-reply' ? { kind, label } : { kind, label, target };
}
