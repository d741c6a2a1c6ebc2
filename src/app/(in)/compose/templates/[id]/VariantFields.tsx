'use client';

import type { FindingPart, TemplateFinding } from '../../../../../core/templates/finding';
import type { TemplateRules } from '../../../../../core/templates/rules';
import { type Header, placeholdersIn, type Variant, variablesOf } from '../../../../../core/templates/template';
import { directionOf } from '../../../../../ui/compose/direction';
import { MarkedText, TemplateFindings } from '../../../../../ui/compose/MarkedText';
import { Button } from '../../../../../ui/primitives/Button';
import { ButtonFields } from './ButtonFields';
import { MediaField } from './MediaField';

interface Props {
  variant: Variant;
  rules?: TemplateRules;
  /** It is sent as it stands, and not put into what somebody writes. */
  sent: boolean;
  at: (part: FindingPart) => TemplateFinding[];
  change: (changed: Partial<Variant>) => void;
  suggestions: readonly string[];
  readOnly: boolean;
}

/** What one language says, part by part. */
export function VariantFields({ variant, rules, sent, at, change, suggestions, readOnly }: Props) {
  const direction = directionOf(variant.language);
  const { header } = variant;
  const variables = variablesOf(variant);
  const tools = (insert: (text: string) => void) => (
    <VariableTool known={[...new Set([...variables, ...suggestions])]} insert={insert} />
  );
  return (
    <>
      {rules && (
        <div className="grid gap-2">
          <div className="flex flex-wrap items-center gap-2">
            <label className="font-medium" htmlFor="header-kind">
              Header
            </label>
            <select
              id="header-kind"
              disabled={readOnly}
              value={header?.kind ?? 'none'}
              onChange={(event) => change({ header: headerOf(event.target.value) })}
              className="rounded border border-line-strong bg-panel px-2 py-1 text-[13px]"
            >
              <option value="none">none</option>
              {rules.header.kinds.map((kind) => (
                <option key={kind} value={kind}>
                  {kind === 'text' ? 'a line of text' : kind}
                </option>
              ))}
            </select>
          </div>
          {header?.kind === 'text' ? (
            <MarkedText
              label="Header text"
              value={header.text}
              readOnly={readOnly}
              direction={direction}
              onValue={(text) => change({ header: { kind: 'text', text } })}
              findings={at('header')}
              tools={tools}
            />
          ) : (
            <>
              {header && (
                <MediaField
                  header={header}
                  rules={rules}
                  readOnly={readOnly}
                  onMedia={(media) => change({ header: { ...header, media } })}
                />
              )}
              <TemplateFindings findings={at('header')} />
            </>
          )}
        </div>
      )}
      {!rules && sent && (
        <MarkedText
          label="Subject, where it is sent as a mail (may stay empty)"
          value={header?.kind === 'text' ? header.text : ''}
          readOnly={readOnly}
          direction={direction}
          onValue={(text) => change({ header: text === '' ? undefined : { kind: 'text', text } })}
          findings={at('header')}
          tools={tools}
        />
      )}
      <MarkedText
        label={rules ? 'Body' : 'Text'}
        rows={5}
        value={variant.body}
        readOnly={readOnly}
        direction={direction}
        onValue={(body) => change({ body })}
        findings={at('body')}
        tools={tools}
        help={rules && `${variant.body.length} of ${rules.body.longest} characters`}
      />
      {rules &&
        (variant.footer === undefined ? (
          !readOnly && (
            <div className="flex gap-2">
              <Button tone="quiet" className="px-0" onClick={() => change({ footer: '' })}>
                Add a footer
              </Button>
            </div>
          )
        ) : (
          <div>
            <MarkedText
              label="Footer"
              value={variant.footer}
              readOnly={readOnly}
              direction={direction}
              onValue={(footer) => change({ footer })}
              findings={at('footer')}
            />
            {!readOnly && (
              <Button tone="quiet" className="px-0" onClick={() => change({ footer: undefined })}>
                Leave the footer out
              </Button>
            )}
          </div>
        ))}
      {rules && (
        <ButtonFields
          buttons={variant.buttons}
          rules={rules}
          at={at}
          readOnly={readOnly}
          onChange={(buttons) => change({ buttons })}
        />
      )}
      {!rules && sent && (
        <label className="grid gap-1">
          <span className="font-medium">Answers to press, one on each line (may stay empty)</span>
          <textarea
            rows={2}
            readOnly={readOnly}
            dir={direction}
            className="rounded border border-line-strong bg-panel px-2 py-1.5"
            value={variant.buttons.map(({ label }) => label).join('\n')}
            onChange={(event) =>
              change({
                buttons:
                  event.target.value === ''
                    ? []
                    : event.target.value.split('\n').map((label) => ({ kind: 'quick-reply', label })),
              })
            }
          />
          <span className="text-[13px] text-soft">Buttons where a channel shows such; in words elsewhere.</span>
        </label>
      )}
      {variables.length > 0 && (
        <fieldset className="grid gap-2">
          <legend className="mb-1 font-medium">Samples</legend>
          <p className="text-[13px] text-soft">
            Made-up values of the right kind{rules ? ': a reviewer judges by them' : ', for the preview'}.
          </p>
          {variables.map((name, place) => (
            <div key={name} className="grid grid-cols-[2ch_minmax(0,14ch)_1fr] items-baseline gap-x-3">
              <span className="text-right text-soft tabular-nums">{place + 1}</span>
              <label htmlFor={`sample-${name}`} className="truncate font-mono text-[13px]" title={name}>
                {name}
              </label>
              <div>
                <input
                  id={`sample-${name}`}
                  readOnly={readOnly}
                  value={variant.samples[name] ?? ''}
                  onChange={(event) => change({ samples: { ...variant.samples, [name]: event.target.value } })}
                  className="w-full rounded border border-line-strong bg-panel px-2.5 py-1"
                />
                <TemplateFindings findings={at(`sample-${name}`)} />
              </div>
            </div>
          ))}
        </fieldset>
      )}
    </>
  );
}

function headerOf(kind: string): Header | undefined {
  if (kind === 'none') return undefined;
  return kind === 'text' ? { kind, text: '' } : { kind: kind as 'image' };
}

/** Puts a variable in at the cursor: one of those there is something to fill with, or any other. */
function VariableTool({ known, insert }: { known: readonly string[]; insert: (text: string) => void }) {
  return (
    <form
      className="flex items-center gap-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        const input = event.currentTarget.elements.namedItem('variable') as HTMLInputElement;
        const written = `{{ ${input.value.trim()} }}`;
        if (placeholdersIn(written).length === 0) return input.focus();
        insert(written);
        input.value = '';
      }}
    >
      <input
        name="variable"
        list="known-variables"
        aria-label="Variable to insert"
        placeholder="boat_name"
        size={16}
        pattern="[a-z][a-z0-9_]{0,39}"
        title="Small letters, digits and underscores"
        className="rounded border border-line-strong bg-panel px-2 py-0.5 font-mono"
      />
      <datalist id="known-variables">
        {known.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </datalist>
      <Button type="submit" className="h-7">
        Insert
      </Button>
    </form>
  );
}
