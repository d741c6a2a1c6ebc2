'use client';

import type { TemplateFinding } from '../../../../../core/templates/finding';
import type { Variant } from '../../../../../core/templates/template';
import { languageName } from '../../../../../ui/compose/direction';
import { TemplateFindings } from '../../../../../ui/compose/MarkedText';
import { Button } from '../../../../../ui/primitives/Button';

interface Props {
  variants: readonly Variant[];
  findings: readonly TemplateFinding[];
  index: number;
  onChoose: (index: number) => void;
  onChange: (variants: Variant[], index: number) => void;
  readOnly: boolean;
}

/** The variants, with who gets which. A new one begins as a copy, so that nothing is forgotten in it. */
export function Languages({ variants, findings, index, onChoose, onChange, readOnly }: Props) {
  const variant = variants[index] ?? variants[0];
  if (!variant) return null;
  const own = findings.filter(({ part, language }) => part === 'language' && language === variant.language);
  return (
    <div>
      <div className="flex flex-wrap items-center gap-2 border-b border-line pb-2">
        <div className="flex flex-wrap gap-2" role="tablist" aria-label="Languages">
          {variants.map((each, place) => {
            const errors = findings.filter(
              ({ severity, language }) => severity === 'error' && language === each.language,
            ).length;
            return (
              <button
                // biome-ignore lint/suspicious/noArrayIndexKey: two may have one language while it is typed
                key={place}
                type="button"
                role="tab"
                aria-selected={place === index}
                onClick={() => onChoose(place)}
                className={`rounded border px-2.5 py-1 text-[13px] ${place === index ? 'border-heather text-heather' : 'border-line-strong'}`}
              >
                {languageName(each.language)} <span className="font-mono text-xs">{each.language}</span>
                {errors > 0 && <span className="text-clay"> ■ {errors}</span>}
              </button>
            );
          })}
        </div>
        {!readOnly && (
          <Button tone="quiet" onClick={() => onChange([...variants, { ...variant, language: '' }], variants.length)}>
            Add a language
          </Button>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3 text-[13px]">
        <label className="flex items-center gap-2">
          Language tag
          <input
            value={variant.language}
            readOnly={readOnly}
            size={8}
            spellCheck={false}
            onChange={(event) =>
              onChange(
                variants.map((each, place) =>
                  place === index ? { ...each, language: event.target.value.trim() } : each,
                ),
                index,
              )
            }
            className="rounded border border-line-strong bg-panel px-2 py-0.5 font-mono"
          />
        </label>
        <span className="text-soft">
          {index === 0 ? gets(variants) : `People whose language is ${languageName(variant.language)} get this.`}
        </span>
        {!readOnly && variants.length > 1 && (
          <>
            {index > 0 && (
              <Button
                tone="quiet"
                onClick={() => onChange([variant, ...variants.filter((each) => each !== variant)], 0)}
              >
                Make it the first
              </Button>
            )}
            <Button
              tone="quiet"
              onClick={() =>
                onChange(
                  variants.filter((each) => each !== variant),
                  0,
                )
              }
            >
              Remove
            </Button>
          </>
        )}
      </div>
      <TemplateFindings findings={own} />
    </div>
  );
}

function gets(variants: readonly Variant[]): string {
  if (variants.length === 1) return 'Everybody gets this.';
  return `Everybody gets this whose language is not ${variants
    .slice(1)
    .map(({ language }) => languageName(language))
    .join(' or ')}.`;
}
