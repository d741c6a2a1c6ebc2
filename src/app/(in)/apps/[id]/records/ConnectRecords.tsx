'use client';

import { useState } from 'react';
import type { AppProfileView } from '../../../../../operations/apps/records';
import { ActionForm } from '../../../../../ui/forms/ActionForm';
import { CredentialFields } from '../../../../../ui/forms/CredentialFields';
import { Panel } from '../../../../../ui/primitives/layout';
import { connectRecordsAction } from '../../recordActions';

/** Which app it is, what is needed for it, and its credentials. */
export function ConnectRecords({ appId, profiles }: { appId: string; profiles: AppProfileView[] }) {
  const [chosen, setChosen] = useState('');
  const profile = profiles.find(({ id }) => id === chosen);
  return (
    <div className="grid gap-4">
      <fieldset className="grid gap-2 sm:grid-cols-2">
        <legend className="mb-2">Which app it is:</legend>
        {profiles.map(({ id, name, summary }) => (
          <label key={id} className="flex cursor-pointer gap-2 rounded-md border border-line bg-panel p-3">
            <input type="radio" name="profile" value={id} checked={chosen === id} onChange={() => setChosen(id)} />
            <span>
              <span className="block font-medium">{name}</span>
              <span className="text-[13px] text-soft">{summary}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {profile && (
        <Panel className="grid gap-4 p-4">
          <div>
            <p className="font-medium">Have ready</p>
            <ul className="list-disc pl-5 text-[13px]">
              {profile.preconditions.map(({ text, help }) => (
                <li key={text}>
                  {text} {help && <span className="text-soft">{help}</span>}
                </li>
              ))}
            </ul>
          </div>
          <ActionForm
            key={profile.id}
            action={connectRecordsAction.bind(
              null,
              appId,
              profile.id,
              profile.fields.map(({ name }) => name),
            )}
            submit="Check and save"
            busy={`Asking ${profile.name}…`}
          >
            <CredentialFields fields={profile.fields} />
          </ActionForm>
        </Panel>
      )}
    </div>
  );
}
