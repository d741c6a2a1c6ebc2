'use client';

import { useSearchParams } from 'next/navigation';
import type { ListView } from '../../../operations/shell';
import { ActionButton } from '../../../ui/forms/ActionButton';
import { TextField } from '../../../ui/forms/ActionForm';
import { DialogForm } from '../../../ui/forms/DialogForm';
import { Link } from '../../../ui/primitives/Link';
import { keepViewAction, removeViewAction } from './actions';

/** The views that were kept of a list, and the button that keeps the present one. */
export function KeptViews({ page, views, mayKeep }: { page: string; views: readonly ListView[]; mayKeep: boolean }) {
  const present = new URLSearchParams(useSearchParams());
  present.delete('before');
  const query = present.toString();
  const kept = views.find((view) => view.query === query);
  if (views.length === 0 && (query === '' || !mayKeep)) return null;
  return (
    <nav aria-label="Kept views" className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
      {views.map((view) => (
        <Link
          key={view.id}
          href={`${page}?${view.query}`}
          aria-current={view === kept ? 'true' : undefined}
          className={view === kept ? 'plain font-semibold text-heather' : undefined}
        >
          {view.name}
        </Link>
      ))}
      {kept && mayKeep && (
        <ActionButton tone="quiet" action={removeViewAction.bind(null, page, kept.id)}>
          Forget “{kept.name}”
        </ActionButton>
      )}
      {query !== '' && !kept && mayKeep && (
        <DialogForm
          open="Keep this view"
          tone="quiet"
          title="Keep this view"
          submit="Keep"
          action={keepViewAction.bind(null, page, query)}
        >
          <TextField
            name="name"
            label="Name"
            help="Everybody finds it above the list. One of the same name is replaced."
          />
        </DialogForm>
      )}
    </nav>
  );
}
