'use client';

import { useRef, useTransition } from 'react';
import { toast } from 'sonner';
import { Button } from '../../../../../ui/primitives/Button';

export interface Kept {
  id: string;
  name: string;
  type: string;
}

/** A file that goes along: kept here first, judged by its content. */
export function Attach({
  types,
  file,
  onFile,
}: {
  types: readonly string[];
  file: Kept | undefined;
  onFile: (file: Kept | undefined) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [sending, startSending] = useTransition();
  if (file)
    return (
      <span className="flex items-center gap-1 text-[13px]" data-file={file.type}>
        {file.name}
        <Button
          tone="quiet"
          className="h-7 px-1"
          aria-label={`Leave ${file.name} out`}
          onClick={() => onFile(undefined)}
        >
          Leave out
        </Button>
      </span>
    );
  return (
    <>
      <input
        ref={input}
        type="file"
        aria-label="File that goes along"
        accept={types.join(',')}
        hidden
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          if (!chosen) return;
          startSending(async () => {
            const form = new FormData();
            form.set('file', chosen);
            const answer = await fetch('/media', { method: 'POST', body: form });
            const said = (await answer
              .json()
              .catch(() => ({ problem: `The server answered ${answer.status}.` }))) as Kept & {
              problem?: string;
            };
            if (said.problem) return void toast.error(said.problem);
            if (!types.includes(said.type))
              return void toast.error(`This is ${said.type || 'of no known type'}, which is not carried here.`, {
                description: `These are: ${types.join(', ')}.`,
              });
            onFile(said);
          });
        }}
      />
      <Button disabled={sending} onClick={() => input.current?.click()}>
        {sending ? 'Keeping it…' : 'Attach'}
      </Button>
    </>
  );
}
