'use client';

import { useState, useTransition } from 'react';
import { megabytes } from '../../../../../core/templates/checks/header';
import type { TemplateRules } from '../../../../../core/templates/rules';
import type { HeaderMedia, MediaKind } from '../../../../../core/templates/template';

interface Props {
  header: { kind: MediaKind; media?: HeaderMedia };
  rules: TemplateRules;
  onMedia: (media: HeaderMedia) => void;
  readOnly: boolean;
}

/** A sample of the header's file. What it is shows its content, not its name. */
export function MediaField({ header: { kind, media }, rules, onMedia, readOnly }: Props) {
  const [problem, setProblem] = useState<string>();
  const [sending, startSending] = useTransition();
  const limit = rules.header.media[kind];

  function send(file: File) {
    startSending(async () => {
      const form = new FormData();
      form.set('file', file);
      const answer = await fetch('/media', { method: 'POST', body: form });
      const said = (await answer
        .json()
        .catch(() => ({ problem: `The server answered ${answer.status}.` }))) as HeaderMedia & { problem?: string };
      setProblem(said.problem);
      if (!said.problem) onMedia(said);
    });
  }

  return (
    <div className="text-[13px]">
      {media && (
        <p>
          {media.name}: {media.type || 'of no known type'}, {megabytes(media.bytes)}
        </p>
      )}
      {!readOnly && (
        <label className="mt-1 block">
          <span className="sr-only">File of the header</span>
          <input
            type="file"
            accept={limit?.types.join(',')}
            disabled={sending}
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              if (file) send(file);
            }}
          />
        </label>
      )}
      {limit && (
        <p className="mt-1 text-soft">
          {limit.types.join(', ')}; at most {megabytes(limit.mostBytes)}
        </p>
      )}
      {problem && <p className="text-clay">■ {problem}</p>}
    </div>
  );
}
