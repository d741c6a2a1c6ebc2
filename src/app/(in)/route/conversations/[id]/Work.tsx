'use client';

import { useTransition } from 'react';
import { toast } from 'sonner';
import { TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import type { FormState } from '../../../../../ui/forms/formState';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { Button } from '../../../../../ui/primitives/Button';
import { addTodoAction } from '../../../send/todos/actions';
import { closeAction, giveAction, keepAction, noteAction, reopenAction } from './actions';

interface Props {
  id: string;
  contactId: string;
  state: 'quiet' | 'open' | 'waiting' | 'closed';
  assignedTo: string;
  team: string;
  people: [string, string][];
  teams: readonly string[];
  actions: [string, string][];
  me: string;
}

const STATES = {
  quiet: 'automated; no answer yet',
  open: 'the contact wrote last',
  waiting: 'we wrote last',
  closed: 'closed',
};

/** Whose it is, how it stands, and what can be done with it. */
export function Work({ id, contactId, state, assignedTo, team, people, teams, actions, me }: Props) {
  const [busy, start] = useTransition();
  const run = (action: () => Promise<FormState>) =>
    start(async () => {
      const answer = await throughAsking(() => action());
      if (answer.status === 'refused') toast.error(answer.message);
      else if (answer.status === 'done' && answer.message) toast.success(answer.message);
    });
  const present = assignedTo ? `person ${assignedTo}` : team ? `team ${team}` : '';
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-2 text-[13px]" data-conversation={state}>
      <span className="text-soft">{STATES[state]}</span>
      <label className="flex items-center gap-1.5">
        Assigned to
        <select
          aria-label="Whose conversation it is"
          value={present}
          disabled={busy}
          onChange={(event) => {
            const [kind, ...rest] = event.target.value.split(' ');
            run(() =>
              giveAction(
                id,
                kind === 'person' ? { person: rest.join(' ') } : kind === 'team' ? { team: rest.join(' ') } : {},
              ),
            );
          }}
          className="rounded border border-line-strong bg-panel px-1.5 py-0.5"
        >
          <option value="">nobody</option>
          {people.map(([person, name]) => (
            <option key={person} value={`person ${person}`}>
              {person === me ? `${name} (me)` : name}
            </option>
          ))}
          {teams.map((each) => (
            <option key={each} value={`team ${each}`}>
              team {each}
            </option>
          ))}
        </select>
      </label>
      {assignedTo !== me && (
        <Button
          tone="quiet"
          className="h-6 px-1.5"
          disabled={busy}
          onClick={() => run(() => giveAction(id, { person: me }))}
        >
          Assign to me
        </Button>
      )}
      {actions.length > 0 && state !== 'quiet' && (
        <select
          aria-label="Create a record"
          value=""
          disabled={busy}
          onChange={(event) => {
            const chosen = event.target.value;
            if (chosen) run(() => keepAction(id, chosen));
          }}
          className="max-w-44 rounded border border-line-strong bg-panel px-1.5 py-0.5"
        >
          <option value="">Create a record…</option>
          {actions.map(([action, name]) => (
            <option key={action} value={action}>
              {name}
            </option>
          ))}
        </select>
      )}
      <DialogForm
        open="Note"
        tone="quiet"
        title="A note for colleagues"
        description="It is never sent."
        submit="Save"
        action={noteAction.bind(null, id)}
      >
        <TextAreaField name="note" label="Note" rows={4} />
      </DialogForm>
      <DialogForm
        open="To-do"
        tone="quiet"
        title="A to-do about this person"
        submit="Add"
        action={addTodoAction.bind(null, contactId)}
      >
        <TextField name="title" label="Task" />
      </DialogForm>
      {state === 'closed' ? (
        <Button tone="quiet" className="h-6 px-1.5" disabled={busy} onClick={() => run(() => reopenAction(id))}>
          Reopen
        </Button>
      ) : (
        <Button tone="quiet" className="h-6 px-1.5" disabled={busy} onClick={() => run(() => closeAction(id))}>
          Close
        </Button>
      )}
    </div>
  );
}
