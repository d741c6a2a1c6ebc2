'use client';

import { useRouter } from 'next/navigation';
import { type ReactNode, useEffect, useMemo, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { examinePlain, examineTemplate, type Surroundings } from '../../../../../core/templates/examine';
import type { FindingPart, TemplateFinding } from '../../../../../core/templates/finding';
import { variantFor } from '../../../../../core/templates/mapping';
import { asOneText } from '../../../../../core/templates/render';
import type { TemplateRules } from '../../../../../core/templates/rules';
import { sameContent } from '../../../../../core/templates/standing';
import {
  CATEGORIES,
  CATEGORY_WORDS,
  type Category,
  type Template,
  type Variant,
} from '../../../../../core/templates/template';
import type { LanguageDetector } from '../../../../../core/text/language';
import type { TemplateReaders } from '../../../../../operations/templates';
import { HandsetPreview } from '../../../../../ui/compose/HandsetPreview';
import { MarkedText, TemplateFindings } from '../../../../../ui/compose/MarkedText';
import { MeasureLine } from '../../../../../ui/domain/MeasureLine';
import { SavedByKey } from '../../../../../ui/forms/SavedByKey';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { useUnsavedGuard } from '../../../../../ui/forms/useUnsavedGuard';
import { Button } from '../../../../../ui/primitives/Button';
import { IN_SIGHT, Panel } from '../../../../../ui/primitives/layout';
import { saveTemplateAction } from '../actions';
import { Languages } from './Languages';
import { ExampleChoice, MissingLanguages, PriceByCountry, Unsaid, valuesOf } from './Readers';
import { type PlatformReasons, reasonFindings } from './reasons';
import { VariantFields } from './VariantFields';

interface Props {
  id: string;
  content: Template;
  changedAt: number;
  /** Absent for what no platform judges. */
  rules?: TemplateRules;
  /** It is sent as it stands, and not put into what somebody writes. */
  sent: boolean;
  around: Omit<Surroundings, 'detect'>;
  /** Why the platform rejected the version submitted last. */
  reasons?: PlatformReasons;
  suggestions: readonly string[];
  readers: TemplateReaders;
  readOnly: boolean;
  /** What submits it for review, where it may be submitted. */
  submit?: ReactNode;
}

export function TemplateEditor({
  id,
  content,
  changedAt,
  rules,
  sent,
  around,
  reasons,
  suggestions,
  readers,
  readOnly,
  submit,
}: Props) {
  const router = useRouter();
  const [saved, setSaved] = useState({ content, changedAt });
  const [draft, setDraft] = useState<Template>(content);
  const [index, setIndex] = useState(0);
  const [example, setExample] = useState(-1);
  const [saving, startSaving] = useTransition();
  const detect = useDetector();
  const unsaved = !sameContent(draft, saved.content);
  useUnsavedGuard(unsaved);

  const variant = draft.variants[Math.min(index, draft.variants.length - 1)] as Variant;
  const findings = useMemo(() => {
    const surroundings = { ...around, detect };
    const ours = rules ? examineTemplate(draft, rules, surroundings) : examinePlain(draft, surroundings);
    return [...reasonFindings(reasons, draft), ...ours];
  }, [draft, rules, around, detect, reasons]);
  const at = (part: FindingPart) =>
    findings.filter(
      (finding) => finding.part === part && (finding.language === undefined || finding.language === variant.language),
    );

  const filling = readers.examples[example];
  const filled = draft.variants.map((each) => (filling ? { ...each, samples: valuesOf(each, filling).values } : each));
  // Whoever is chosen sees what they would get.
  const shown = filling?.language
    ? filled.indexOf(variantFor(filled, filling.language) as Variant)
    : Math.min(index, filled.length - 1);

  function change(changed: Partial<Variant>) {
    setDraft({ ...draft, variants: draft.variants.map((each) => (each === variant ? { ...each, ...changed } : each)) });
  }

  function save() {
    if (!unsaved || saving) return;
    startSaving(async () => {
      const answer = await throughAsking(() => saveTemplateAction(id, draft, saved.changedAt));
      if (answer.status === 'refused') {
        toast.error(answer.message, { description: answer.findings[0]?.finding.remedy, duration: 12_000 });
        return;
      }
      if (answer.status === 'done') setSaved({ content: draft, changedAt: Number(answer.values?.changedAt) });
      toast.success(rules ? 'Saved. It is not submitted by that.' : 'Saved, and in use');
      router.refresh();
    });
  }

  return (
    <SavedByKey className="mb-6 grid gap-6 lg:grid-cols-[minmax(0,1fr)_330px]" onSave={save}>
      <Panel className="grid content-start gap-4 p-4">
        <div className="grid gap-4 sm:grid-cols-2">
          <MarkedText
            label="Name"
            exact={rules !== undefined}
            value={draft.name}
            readOnly={readOnly}
            onValue={(name) => setDraft({ ...draft, name })}
            findings={at('name')}
          />
          {rules && (
            <div>
              <label className="mb-1 block font-medium" htmlFor="category">
                Category
              </label>
              <select
                id="category"
                disabled={readOnly}
                value={draft.category}
                onChange={(event) => setDraft({ ...draft, category: event.target.value as Category })}
                className="w-full rounded border border-line-strong bg-panel px-2.5 py-1.5"
              >
                {CATEGORIES.map((category) => (
                  <option key={category} value={category}>
                    {category}
                  </option>
                ))}
              </select>
              <p className="mt-1 text-[13px] text-soft">{CATEGORY_WORDS[draft.category]}</p>
              <TemplateFindings findings={at('category')} />
            </div>
          )}
        </div>
        <Languages
          variants={draft.variants}
          findings={findings}
          index={index}
          onChoose={setIndex}
          readOnly={readOnly}
          onChange={(variants, next) => {
            setDraft({ ...draft, variants });
            setIndex(next);
          }}
        />
        <MissingLanguages
          variants={draft.variants}
          languages={readers.languages}
          onAdd={
            readOnly
              ? undefined
              : (language) => {
                  setDraft({ ...draft, variants: [...draft.variants, { ...variant, language }] });
                  setIndex(draft.variants.length);
                }
          }
        />
        <VariantFields
          variant={variant}
          rules={rules}
          sent={sent}
          at={at}
          change={change}
          suggestions={suggestions}
          readOnly={readOnly}
        />
        <div className={`flex flex-wrap items-center gap-3 ${IN_SIGHT}`}>
          {!readOnly && (
            <Button tone="primary" onClick={save} disabled={!unsaved || saving}>
              {saving ? 'Saving…' : 'Save'}
            </Button>
          )}
          {!unsaved && submit}
          <p
            aria-live="polite"
            className="text-[13px]"
            data-findings={findings.filter(({ severity }) => severity !== 'notice').length}
          >
            {unsaved ? (
              <span className="text-heather">
                ◇ Not saved. Ctrl and S saves{submit ? '; what is saved can be submitted' : ''}.{' '}
              </span>
            ) : (
              <span className="text-soft">Saved. </span>
            )}
            <Counted findings={findings} />
          </p>
        </div>
      </Panel>
      <div className="content-start lg:sticky lg:top-4 lg:self-start">
        <ExampleChoice examples={readers.examples} chosen={example} onChoose={setExample} />
        <HandsetPreview variants={filled} chosen={shown} />
        {filling && <Unsaid variant={draft.variants[shown] as Variant} example={filling} />}
        {!rules && (
          <div className="mt-3">
            <MeasureLine
              text={asOneText(filled[shown] as Variant, (filled[shown] as Variant).samples)}
              onFix={() => undefined}
            />
            <PriceByCountry
              variant={filled[shown] as Variant}
              values={(filled[shown] as Variant).samples}
              prices={readers.prices}
            />
          </div>
        )}
      </div>
    </SavedByKey>
  );
}

function Counted({ findings }: { findings: readonly TemplateFinding[] }) {
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  const attention = findings.filter(({ severity }) => severity === 'attention').length;
  if (errors + attention === 0) return <span className="text-moss">Nothing to object to.</span>;
  return (
    <span>
      {errors > 0 && <span className="text-clay">■ {errors === 1 ? 'One thing' : `${errors} things`} to fix. </span>}
      {attention > 0 && (
        <span className="text-ochre-ink">▲ {attention === 1 ? 'One thing' : `${attention} things`} to look at.</span>
      )}
    </span>
  );
}

/** The detector knows sixty languages and is large; it comes after the page. */
function useDetector(): LanguageDetector | undefined {
  const [detect, setDetect] = useState<LanguageDetector>();
  useEffect(() => {
    void import('../../../../../core/text/language').then(({ detectLanguage }) => setDetect(() => detectLanguage));
  }, []);
  return detect;
}
