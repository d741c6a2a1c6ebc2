'use client';

import { ActionButton } from '../../../../../../ui/forms/ActionButton';
import { runImportAction } from '../../actions';
import { PLAN } from './planPlace';

/** Begins the import by the plan as it is shown: one that was changed and not examined again is refused, not ignored. */
export function RunImport({ id, headers, contacts }: { id: string; headers: string[]; contacts: number }) {
  function go() {
    const form = document.querySelector<HTMLFormElement>(`#${PLAN} form`);
    return runImportAction(id, headers, form ? new FormData(form) : new FormData());
  }
  return (
    <ActionButton tone="primary" action={go}>
      Import {contacts.toLocaleString('en')} contacts
    </ActionButton>
  );
}
