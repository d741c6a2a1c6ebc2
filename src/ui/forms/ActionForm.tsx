'use client';

import {
  createContext,
  type FormEvent,
  type ReactNode,
  useContext,
  useEffect,
  useId,
  useRef,
  useState,
  useTransition,
} from 'react';
import { FindingLine } from '../domain/Findings';
import { Button } from '../primitives/Button';
import { type FormState, findingFor, NEW_FORM } from './formState';
import { throughAsking } from './throughAsking';
import { useUnsavedGuard } from './useUnsavedGuard';

const FormContext = createContext<FormState>(NEW_FORM);

interface ActionFormProps {
  action: (form: FormData) => Promise<FormState>;
  submit: string;
  /** Shown on the button while waiting for the outside. */
  busy?: string;
  children: ReactNode;
  onDone?: (state: Extract<FormState, { status: 'done' }>) => void;
  cancel?: ReactNode;
}

/**
 * A form that sends itself to a server action. What was typed stays on any refusal;
 * findings appear in a summary and at their fields; leaving with unsent work asks first.
 */
export function ActionForm({ action, submit, busy, children, onDone, cancel }: ActionFormProps) {
  const [state, setState] = useState<FormState>(NEW_FORM);
  const [waiting, startTransition] = useTransition();
  const [dirty, setDirty] = useState(false);
  // Sent before the page has woken up, a form would go out by the browser's own way, and what was typed into its address.
  const [awake, setAwake] = useState(false);
  const summary = useRef<HTMLDivElement>(null);

  useEffect(() => setAwake(true), []);

  useUnsavedGuard(dirty);

  useEffect(() => {
    if (state.status === 'refused') summary.current?.focus();
  }, [state]);

  function send(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    startTransition(async () => {
      const answer = await throughAsking(() => action(form));
      setState(answer);
      if (answer.status !== 'done') return;
      setDirty(false);
      onDone?.(answer);
    });
  }

  return (
    <FormContext.Provider value={state}>
      <form method="post" onSubmit={send} onChange={() => setDirty(true)} noValidate className="grid gap-4">
        {state.status === 'refused' && (
          <div ref={summary} tabIndex={-1} role="alert" className="rounded border border-clay px-3 py-2">
            <p className="font-medium text-clay">{state.message}</p>
            {state.findings
              .filter(({ finding }) => finding.problem !== state.message || state.findings.length === 1)
              .map(({ field, finding }) => (
                <FindingLine key={`${field} ${finding.code}`} finding={finding} />
              ))}
          </div>
        )}
        {children}
        <div className="flex items-center gap-2">
          <Button type="submit" tone="primary" disabled={waiting || !awake}>
            {waiting ? (busy ?? 'Saving…') : submit}
          </Button>
          {cancel}
        </div>
      </form>
    </FormContext.Provider>
  );
}

interface FieldProps {
  name: string;
  label: string;
  help?: string;
  children: (attributes: {
    id: string;
    name: string;
    'aria-describedby'?: string;
    'aria-invalid'?: true;
    className: string;
  }) => ReactNode;
}

const INPUT = 'w-full rounded border border-line-strong bg-panel px-2.5 py-1.5 aria-[invalid]:border-clay';

export function Field({ name, label, help, children }: FieldProps) {
  const id = useId();
  const finding = findingFor(useContext(FormContext), name);
  const describedBy = [finding && `${id}-finding`, help && `${id}-help`].filter(Boolean).join(' ') || undefined;
  return (
    <div>
      <label htmlFor={id} className="mb-1 block font-medium">
        {label}
      </label>
      {children({
        id,
        name,
        'aria-describedby': describedBy,
        'aria-invalid': finding ? true : undefined,
        className: INPUT,
      })}
      {finding && <FindingLine id={`${id}-finding`} finding={finding} />}
      {help && (
        <p id={`${id}-help`} className="mt-1 text-[13px] text-soft">
          {help}
        </p>
      )}
    </div>
  );
}

interface TextFieldProps {
  name: string;
  label: string;
  help?: string;
  initial?: string;
  type?: 'text' | 'password' | 'email';
  /** Ids, keys and addresses are set in the face that tells 0 from O. */
  exact?: boolean;
  autoComplete?: string;
  autoFocus?: boolean;
}

export function TextField({
  name,
  label,
  help,
  initial = '',
  type = 'text',
  exact,
  autoComplete = 'off',
  autoFocus,
}: TextFieldProps) {
  const [value, setValue] = useState(initial);
  return (
    <Field name={name} label={label} help={help}>
      {(attributes) => (
        <input
          {...attributes}
          className={`${attributes.className} ${exact ? 'font-mono text-[13px]' : ''}`}
          type={type}
          value={value}
          onChange={(event) => setValue(event.target.value)}
          autoComplete={autoComplete}
          // biome-ignore lint/a11y/noAutofocus: the first field of a page that is only this form
          autoFocus={autoFocus}
          spellCheck={exact ? false : undefined}
        />
      )}
    </Field>
  );
}

export function SelectField({
  name,
  label,
  help,
  options,
  initial,
  onValue,
}: {
  name: string;
  label: string;
  help?: string;
  options: [string, string][];
  initial?: string;
  onValue?: (value: string) => void;
}) {
  return (
    <Field name={name} label={label} help={help}>
      {(attributes) => (
        <select {...attributes} defaultValue={initial} onChange={(event) => onValue?.(event.target.value)}>
          {options.map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

export function TextAreaField({
  name,
  label,
  help,
  initial = '',
  rows = 4,
  exact,
}: {
  name: string;
  label: string;
  help?: string;
  initial?: string;
  rows?: number;
  exact?: boolean;
}) {
  const [value, setValue] = useState(initial);
  return (
    <Field name={name} label={label} help={help}>
      {(attributes) => (
        <textarea
          {...attributes}
          rows={rows}
          className={`${attributes.className} ${exact ? 'font-mono text-[13px]' : ''}`}
          value={value}
          onChange={(event) => setValue(event.target.value)}
          spellCheck={exact ? false : undefined}
        />
      )}
    </Field>
  );
}

export function CheckField({
  name,
  label,
  help,
  initial,
}: {
  name: string;
  label: string;
  help?: string;
  initial?: boolean;
}) {
  const id = useId();
  const finding = findingFor(useContext(FormContext), name);
  return (
    <div>
      <label htmlFor={id} className="flex items-center gap-2">
        <input
          id={id}
          type="checkbox"
          name={name}
          defaultChecked={initial}
          aria-describedby={help ? `${id}-help` : undefined}
        />
        {label}
      </label>
      {finding && <FindingLine finding={finding} />}
      {help && (
        <p id={`${id}-help`} className="mt-0.5 text-[13px] text-soft">
          {help}
        </p>
      )}
    </div>
  );
}
