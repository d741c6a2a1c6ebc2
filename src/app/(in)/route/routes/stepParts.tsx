'use client';

import type { RouteChoices } from '../../../../core/routing/names';
import type { Assignee } from '../../../../core/routing/route';
import { MeasureLine } from '../../../../ui/domain/MeasureLine';
import { Choice, INPUT, Word } from './fields';
import { first } from './stepKinds';

export function Branch({ words, children }: { words: string; children: React.ReactNode }) {
  return (
    <div>
      <p className="text-[13px] text-soft">{words}:</p>
      {children}
    </div>
  );
}

export function Text({
  label,
  value,
  onChange,
  plain,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  plain?: boolean;
}) {
  return (
    <div className="mt-1.5">
      <textarea
        aria-label={label}
        rows={Math.min(5, Math.max(2, Math.ceil(value.length / 70)))}
        className={`${INPUT} w-full`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      {!plain && value && <MeasureLine text={value} onFix={onChange} />}
    </div>
  );
}

export function Minutes({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (minutes: number) => void;
}) {
  return (
    <span className="flex items-center gap-1.5 text-[13px]">
      <input
        type="number"
        min={1}
        aria-label={`${label}, in minutes`}
        className={`${INPUT} w-20`}
        value={value}
        onChange={(event) => onChange(Math.max(1, Math.round(Number(event.target.value) || 1)))}
      />
      minutes
    </span>
  );
}

export function AssigneeFields({
  whom,
  choices,
  onChange,
}: {
  whom: Assignee;
  choices: RouteChoices;
  onChange: (whom: Assignee) => void;
}) {
  const [app = '', record = ''] = first(choices.owned).split(' ');
  const fresh: Record<Assignee['to'], Assignee> = {
    person: { to: 'person', id: first(choices.people) },
    team: { to: 'team', name: choices.teams[0] ?? '' },
    turn: { to: 'turn', name: choices.teams[0] ?? '' },
    owner: { to: 'owner', app, record },
  };
  return (
    <>
      <Choice
        label="To whom"
        value={whom.to}
        options={[
          ['person', 'a person'],
          ['team', 'a team'],
          ['turn', 'the people of a team in turn'],
          ['owner', 'the owner of their record'],
        ]}
        onChange={(to) => onChange(fresh[to])}
      />
      {whom.to === 'person' && (
        <Choice label="Person" value={whom.id} options={choices.people} onChange={(id) => onChange({ ...whom, id })} />
      )}
      {(whom.to === 'team' || whom.to === 'turn') && (
        <Word label="team" value={whom.name} offered={choices.teams} onChange={(name) => onChange({ ...whom, name })} />
      )}
      {whom.to === 'owner' && (
        <Choice
          label="Whose record"
          value={`${whom.app} ${whom.record}`}
          options={choices.owned}
          onChange={(pair) => {
            const [nextApp = '', nextRecord = ''] = pair.split(' ');
            onChange({ to: 'owner', app: nextApp, record: nextRecord });
          }}
        />
      )}
    </>
  );
}
