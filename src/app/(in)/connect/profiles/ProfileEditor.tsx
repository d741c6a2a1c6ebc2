'use client';

import { useCallback, useEffect, useState, useTransition } from 'react';
import { toast } from 'sonner';
import type { Finding } from '../../../../core/finding';
import { FindingLine } from '../../../../ui/domain/Findings';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { useUnsavedGuard } from '../../../../ui/forms/useUnsavedGuard';
import { Button } from '../../../../ui/primitives/Button';
import { Section } from '../../../../ui/primitives/layout';
import type { JsonSchema } from '../../../../ui/profile/suggest';
import { YamlEditor } from '../../../../ui/profile/YamlEditor';
import { examineProfileAction, saveProfileAction } from './actions';
import { Trial } from './Trial';

interface Props {
  initial: string;
  /** Id of the profile that is changed; undefined for a new one. */
  editing?: string;
  readOnly?: boolean;
  mayTry?: boolean;
  accounts: [string, string][];
}

/** The text on the left with its findings, each part to be tried on the right. */
export function ProfileEditor({ initial, editing, readOnly = false, mayTry = true, accounts }: Props) {
  const [text, setText] = useState(initial);
  const [schema, setSchema] = useState<JsonSchema>();
  const [findings, setFindings] = useState<Finding[]>([]);
  const [saving, startTransition] = useTransition();
  const dirty = text !== initial;

  useEffect(() => {
    void fetch('/schemas/connector-profile-1.json')
      .then((answer) => answer.json())
      .then((document) => setSchema(document as JsonSchema));
  }, []);

  useUnsavedGuard(dirty);

  const examine = useCallback(async (written: string) => {
    const found = await throughAsking(() => examineProfileAction(written));
    setFindings(found);
    return found;
  }, []);

  function save() {
    startTransition(async () => {
      const answer = await throughAsking(() => saveProfileAction(text, editing));
      if (answer.status === 'refused') {
        setFindings(answer.findings.map(({ finding }) => finding));
        toast.error(answer.message);
      } else if (answer.status === 'done') toast.success(answer.message);
    });
  }

  return (
    <div className="grid gap-6 xl:grid-cols-[minmax(0,1fr)_420px]">
      <Section
        title="The profile"
        id="text"
        aside={!readOnly && <span>Ctrl and Space offers what may stand at a place</span>}
      >
        <YamlEditor
          label="Profile text"
          initial={initial}
          readOnly={readOnly}
          schema={schema}
          onChange={setText}
          examine={readOnly ? undefined : examine}
        />
        {!readOnly && (
          <>
            <div aria-live="polite" className="mt-2" data-findings={findings.length}>
              {findings.length === 0 ? (
                <p className="text-[13px] text-soft">No mistakes.</p>
              ) : (
                findings
                  .slice(0, 8)
                  .map((finding) => <FindingLine key={`${finding.place?.from} ${finding.problem}`} finding={finding} />)
              )}
            </div>
            <div className="mt-3">
              <Button tone="primary" disabled={saving} onClick={save}>
                {saving ? 'Saving…' : 'Save the profile'}
              </Button>
            </div>
          </>
        )}
      </Section>
      {mayTry && <Trial text={text} accounts={dirty ? [] : accounts} />}
    </div>
  );
}
