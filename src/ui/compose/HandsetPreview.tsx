'use client';

import { useState } from 'react';
import { render, type Values } from '../../core/templates/render';
import { type Variant, variablesOf } from '../../core/templates/template';
import { directionOf } from './direction';

const LONG = 'Wilhelmina-Konstantia van der Oosterhuisen';

const KINDS = { link: 'opens', call: 'calls', 'quick-reply': 'answers' } as const;

/** What a phone would show, in no program's look: paper, ink, and lines between what can be pressed. */
export function HandsetPreview({ variants, chosen }: { variants: readonly Variant[]; chosen: number }) {
  const [dark, setDark] = useState(false);
  const [long, setLong] = useState(false);
  const [all, setAll] = useState(false);
  const shown = all ? variants : variants.slice(chosen, chosen + 1);
  return (
    <div>
      <div className="mb-2 flex flex-wrap gap-x-4 gap-y-1 text-[13px]">
        <Tick label="Dark" on={dark} onChange={setDark} />
        <Tick label="Long names" on={long} onChange={setLong} />
        {variants.length > 1 && <Tick label="All languages" on={all} onChange={setAll} />}
      </div>
      <div className="grid gap-3">
        {shown.map((variant, index) => (
          <Handset
            // biome-ignore lint/suspicious/noArrayIndexKey: two may have one language while it is typed
            key={index}
            variant={variant}
            values={long ? longValues(variant) : variant.samples}
            dark={dark}
          />
        ))}
      </div>
    </div>
  );
}

function Handset({ variant, values, dark }: { variant: Variant; values: Values; dark: boolean }) {
  const { header, body, footer, buttons, findings } = render(variant, values);
  const soft = dark ? 'text-[#aab4ba]' : 'text-[#4c5760]';
  return (
    <figure
      aria-label={`Preview in ${variant.language}`}
      className={`mx-auto w-[300px] rounded-[14px] border-[5px] p-3 ${dark ? 'border-[#3a424a] bg-[#10151a] text-[#e9e6df]' : 'border-[#55606a] bg-[#efece4] text-[#1c262e]'}`}
    >
      <div
        dir={directionOf(variant.language)}
        lang={variant.language}
        data-preview={variant.language}
        className={`rounded-md border ${dark ? 'border-[#3a454e] bg-[#1b232a]' : 'border-[#d3ccbd] bg-white'}`}
      >
        <div className="px-3 py-2">
          {variant.header && variant.header.kind !== 'text' && <Media variant={variant} dark={dark} />}
          {header && <p className="mb-1 font-semibold break-words">{header}</p>}
          <p className="break-words whitespace-pre-wrap">
            {body || <span className={soft}>Nothing is written yet.</span>}
          </p>
          {footer && <p className={`mt-1.5 text-[12px] break-words ${soft}`}>{footer}</p>}
        </div>
        {buttons.map((button, index) => (
          <p
            // biome-ignore lint/suspicious/noArrayIndexKey: two may have one label while they are typed
            key={index}
            className={`border-t px-3 py-1.5 text-center text-[13px] ${dark ? 'border-[#3a454e]' : 'border-[#d3ccbd]'}`}
          >
            <span className="font-medium">{button.label || '…'}</span>
            <span className={`block truncate text-[11px] ${soft}`} dir="ltr">
              {KINDS[button.kind]}
              {button.kind === 'quick-reply' ? '' : ` ${button.target}`}
            </span>
          </p>
        ))}
      </div>
      <figcaption className={`mt-2 text-center text-[11px] ${soft}`}>
        {variant.language}
        {findings.length > 0 && ` · without ${findings.map(({ variable }) => variable).join(', ')}`}
      </figcaption>
    </figure>
  );
}

function Media({ variant: { header }, dark }: { variant: Variant; dark: boolean }) {
  if (!header || header.kind === 'text') return null;
  if (header.kind === 'image' && header.media)
    return (
      // biome-ignore lint/performance/noImgElement: a file of the installation, shown as it is
      <img
        src={`/media/${header.media.id}`}
        alt={header.media.name}
        className="mb-2 max-h-36 w-full rounded object-cover"
      />
    );
  return (
    <p className={`mb-2 rounded px-2 py-4 text-center text-[12px] ${dark ? 'bg-[#2a343c]' : 'bg-[#efece4]'}`}>
      {header.kind}: {header.media?.name ?? 'none chosen'}
    </p>
  );
}

function longValues(variant: Variant): Values {
  return Object.fromEntries(
    variablesOf(variant).map((name) => [
      name,
      variant.samples[name]?.match(/^\S*\d/) ? (variant.samples[name] as string) : LONG,
    ]),
  );
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input type="checkbox" checked={on} onChange={(event) => onChange(event.target.checked)} />
      {label}
    </label>
  );
}
