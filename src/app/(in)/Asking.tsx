'use client';

import { useRouter } from 'next/navigation';
import { type FormEvent, useEffect, useRef, useState } from 'react';
import { type AskWhy, SIGNED_IN_CHANNEL } from '../../ui/forms/formState';
import { askBy, redrawOf } from '../../ui/forms/throughAsking';
import { ShowPasskey } from '../../ui/identity/passkeys';
import { Button } from '../../ui/primitives/Button';
import { Dialog } from '../../ui/primitives/Dialog';
import { Link } from '../../ui/primitives/Link';
import { askOwnPasskeyAction, confirmByPasskeyAction, confirmByPasswordAction } from './you/actions';

interface Props {
  personId: string;
  name: string;
  /** What they can show that it is they. */
  password: boolean;
  passkey: boolean;
  provider?: string;
}

/**
 * Asks, in front of a page that stays as it is: to sign in again where the session has ended, or to show once more that
 * it is oneself. What was pressed goes on by itself afterwards.
 */
export function Asking({ personId, name, password, passkey, provider }: Props) {
  const router = useRouter();
  const [why, setWhy] = useState<AskWhy>();
  const waiting = useRef<((shown: boolean) => void)[]>([]);
  // Whoever puts it away wants to read or copy what they have: only what they press themselves asks again.
  const putAway = useRef(false);

  function end(shown: boolean) {
    putAway.current = !shown && why === 'signed-out';
    setWhy(undefined);
    for (const resolve of waiting.current.splice(0)) resolve(shown);
  }
  const ended = useRef(end);
  ended.current = end;

  useEffect(() => {
    askBy((next, by) => {
      if (by === 'page' && putAway.current) return Promise.resolve(false);
      setWhy(next);
      return new Promise((resolve) => waiting.current.push(resolve));
    });
    const plain = window.fetch;
    window.fetch = redrawOf(plain);
    const channel = new BroadcastChannel(SIGNED_IN_CHANNEL);
    channel.onmessage = ({ data }: MessageEvent<string>) => {
      // What somebody else began is not finished by whoever signs in after them.
      if (data !== personId) return window.location.assign('/');
      ended.current(true);
      window.dispatchEvent(new Event(SIGNED_IN_CHANNEL));
      router.refresh();
    };
    return () => {
      askBy(undefined);
      window.fetch = plain;
      channel.close();
    };
  }, [personId, router]);

  if (why === 'signed-out')
    return (
      <Dialog
        open
        above
        onOpenChange={(open) => open || end(false)}
        title="You were signed out"
        description="Everything on this page stays as it is. Sign in beside it, and what you pressed goes on."
      >
        <Link
          href="/sign-in?next=/sign-in/beside"
          target="_blank"
          rel="opener"
          prefetch={false}
          className="plain inline-block rounded bg-ridge px-3 py-1.5 font-medium text-on-ridge hover:bg-ridge-deep"
        >
          Sign in as {name}
        </Link>
      </Dialog>
    );
  if (why === 'confirm')
    return (
      <Dialog
        open
        above
        onOpenChange={(open) => open || end(false)}
        title="Show that it is you"
        description="This touches secrets, people or keys. It is not asked again for ten minutes."
      >
        <div className="grid gap-4">
          {password && <ShowPassword onDone={() => end(true)} />}
          {passkey && (
            <ShowPasskey
              ask={askOwnPasskeyAction}
              show={confirmByPasskeyAction}
              words="Show the passkey"
              onDone={() => end(true)}
            />
          )}
          {provider && (
            <Link href="/sign-in/provider?anew=1" target="_blank" rel="opener" prefetch={false}>
              Sign in once more through {provider}
            </Link>
          )}
        </div>
      </Dialog>
    );
  return null;
}

/** A form without a transition: the action that waits for it is one, and React ends those together. */
function ShowPassword({ onDone }: { onDone: () => void }) {
  const [problem, setProblem] = useState<string>();
  const [waiting, setWaiting] = useState(false);
  async function send(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    setWaiting(true);
    const answer = await confirmByPasswordAction(new FormData(event.currentTarget)).catch(() => undefined);
    setWaiting(false);
    if (answer?.status === 'done') onDone();
    else setProblem(answer?.status === 'refused' ? answer.message : 'It could not be checked. Try again.');
  }
  return (
    <form onSubmit={send} className="grid gap-3">
      {problem && (
        <p role="alert" className="text-clay">
          {problem}
        </p>
      )}
      <label className="grid gap-1 font-medium">
        Your password
        <input
          name="password"
          type="password"
          autoComplete="current-password"
          // biome-ignore lint/a11y/noAutofocus: the dialog is this field
          autoFocus
          className="w-full rounded border border-line-strong bg-panel px-2.5 py-1.5 font-normal"
        />
      </label>
      <div>
        <Button type="submit" tone="primary" disabled={waiting}>
          {waiting ? 'Checking…' : 'It is me'}
        </Button>
      </div>
    </form>
  );
}
