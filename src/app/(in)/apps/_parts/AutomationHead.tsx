import type { ReactNode } from 'react';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import type { FormState } from '../../../../ui/forms/formState';

interface AutomationHeadProps {
  /** What it does and how it stands. */
  children: ReactNode;
  /** What else may be done to it, before its switch. */
  actions?: ReactNode;
  admin: boolean;
  /** Since when it is switched off; null while it works. */
  disabledAt: number | null;
  /** Switches it on, or off. */
  onSwitch: (id: string, on: boolean) => Promise<FormState>;
  id: string;
}

/** The head of an automation of an app (sheet, calendar feed, telephone, record): how it stands, and its switch. */
export function AutomationHead({ children, actions, admin, disabledAt, onSwitch, id }: AutomationHeadProps) {
  const on = disabledAt === null;
  return (
    <div className="flex flex-wrap items-start justify-between gap-3 text-[13px] not-last:mb-3">
      <div className="min-w-0 flex-1 basis-80">{children}</div>
      {admin && (
        <span className="flex gap-2">
          {actions}
          <ActionButton action={onSwitch.bind(null, id, !on)}>{on ? 'Switch off' : 'Switch on'}</ActionButton>
        </span>
      )}
    </div>
  );
}
