import clsx from 'clsx';
import type { ButtonHTMLAttributes } from 'react';

export type ButtonTone = 'primary' | 'plain' | 'danger' | 'quiet';

const TONES: Record<ButtonTone, string> = {
  primary: 'bg-ridge text-on-ridge hover:bg-ridge-deep border-transparent',
  plain: 'bg-panel text-ink border-line-strong hover:border-ridge',
  danger: 'bg-panel text-clay border-clay hover:bg-clay hover:text-on-ridge',
  quiet: 'bg-transparent text-ridge border-transparent underline-offset-4 hover:underline',
};

export function buttonClass(tone: ButtonTone = 'plain', className?: string): string {
  return clsx(
    'inline-flex h-8 shrink-0 items-center justify-center gap-2 rounded border px-3 text-sm font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-55',
    TONES[tone],
    className,
  );
}

export function Button({
  tone,
  className,
  type = 'button',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { tone?: ButtonTone }) {
  return <button type={type} className={buttonClass(tone, className)} {...rest} />;
}
