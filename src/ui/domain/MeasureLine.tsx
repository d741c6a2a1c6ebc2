'use client';

import { measureText } from '../../core/text/measure';
import { substituteSafely } from '../../core/text/substitutes';

/** How the text will travel, as it is typed; with the character that makes it cost more and a way to fix it. */
export function MeasureLine({ text, onFix }: { text: string; onFix: (text: string) => void }) {
  const measure = measureText(text);
  const count = measure.parts.length;
  const first = measure.forcing[0];
  const substituted = first ? substituteSafely(text) : text;
  const substitutedMeasure = substituted === text ? undefined : measureText(substituted);
  return (
    <div className="text-[13px]" data-measure={`${measure.encoding} ${count}`}>
      <p className="text-soft">
        <span className="tabular-nums">{measure.characters}</span> characters · {measure.encoding} ·{' '}
        <span className={`tabular-nums ${count > 1 ? 'text-ochre-ink' : ''}`}>
          {count} {count === 1 ? 'part' : 'parts'}
        </span>{' '}
        · <span className="tabular-nums">{measure.remaining}</span> left in {count === 1 ? 'it' : 'the last'}
      </p>
      {first && (
        <p className="text-ochre-ink">
          ▲ “{first.char}” needs UCS-2, so a part holds {measure.unitsPerPart} instead of {count > 1 ? 153 : 160}.{' '}
          {substitutedMeasure && (
            <button
              type="button"
              className="font-medium underline underline-offset-2"
              onClick={() => onFix(substituted)}
            >
              Replace what can be ({substitutedMeasure.encoding}, {substitutedMeasure.parts.length}{' '}
              {substitutedMeasure.parts.length === 1 ? 'part' : 'parts'})
            </button>
          )}
        </p>
      )}
    </div>
  );
}
