/** What the platform objected to, as findings beside the text it is about. */
import type { FindingPart, TemplateFinding } from '../../../../../core/templates/finding';
import { sameContent } from '../../../../../core/templates/standing';
import type { Template, Variant } from '../../../../../core/templates/template';

export interface PlatformReasons {
  by: string;
  list: readonly { text: string; part?: string; language?: string }[];
  content: Template;
}

/** A reason stands until the part it is about is written otherwise. */
export function reasonFindings(reasons: PlatformReasons | undefined, draft: Template): TemplateFinding[] {
  if (!reasons) return [];
  return reasons.list.flatMap(({ text, part, language }): TemplateFinding[] => {
    const before = variantIn(reasons.content, language);
    const now = variantIn(draft, language);
    if (!before || !now || !sameContent(partOf(before), partOf(now))) return [];
    return [
      {
        part: PARTS[part ?? ''] ?? 'body',
        language: now.language,
        code: 'rejected-for',
        severity: 'error',
        problem: `${reasons.by} rejected this: ${text}`,
        remedy: 'Write it otherwise.',
      },
    ];

    function partOf(variant: Variant): Template {
      const { samples, buttons, header, footer, body } = variant;
      const kept =
        part === 'samples'
          ? { samples }
          : part === 'buttons'
            ? { buttons }
            : part === 'header'
              ? { header }
              : part === 'footer'
                ? { footer }
                : { body };
      return kept as never;
    }
  });
}

const PARTS: Record<string, FindingPart> = {
  header: 'header',
  body: 'body',
  footer: 'footer',
  buttons: 'button-0-label',
  language: 'language',
  name: 'name',
  category: 'category',
};

function variantIn({ variants }: Template, language: string | undefined): Variant | undefined {
  return (
    variants.find((variant) => variant.language === language) ?? (language === undefined ? variants[0] : undefined)
  );
}
