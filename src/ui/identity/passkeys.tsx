'use client';

import {
  browserSupportsWebAuthn,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  startAuthentication,
  startRegistration,
} from '@simplewebauthn/browser';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { ActionForm, TextField } from '../forms/ActionForm';
import type { FormState } from '../forms/formState';
import { throughAsking } from '../forms/throughAsking';
import { Button } from '../primitives/Button';

export interface PasskeyAsked {
  token: string;
  options: PublicKeyCredentialRequestOptionsJSON;
}

export interface PasskeyOffered {
  token: string;
  options: PublicKeyCredentialCreationOptionsJSON;
}

/** What a browser says when nothing came of a passkey, in words. */
function wordsOf(error: unknown): string {
  const { name, message } = error as Error;
  if (name === 'NotAllowedError' || name === 'AbortError') return 'No passkey was given.';
  if (name === 'InvalidStateError') return 'This device holds a passkey for you here already.';
  if (name === 'SecurityError') return 'The browser does not use passkeys at this address.';
  return message;
}

interface ShowProps {
  ask: () => Promise<PasskeyAsked>;
  show: (token: string, answer: unknown) => Promise<FormState>;
  words: string;
  onDone?: () => void;
}

/** Shows a passkey that one has. */
export function ShowPasskey({ ask, show, words, onDone }: ShowProps) {
  const [problem, setProblem] = useState<string>();
  // No transition: what is asked beside an action that waits for it would end with that action only.
  const [waiting, setWaiting] = useState(false);
  const [thrown, setThrown] = useState<unknown>();
  if (thrown) throw thrown;
  async function go() {
    setProblem(undefined);
    setWaiting(true);
    try {
      const { token, options } = await ask();
      const answer = await startAuthentication({ optionsJSON: options });
      const state = await show(token, answer);
      if (state.status === 'refused') setProblem(state.message);
      else onDone?.();
    } catch (error) {
      if (isOfFramework(error)) setThrown(error);
      else setProblem(browserSupportsWebAuthn() ? wordsOf(error) : 'This browser knows no passkeys.');
    }
    setWaiting(false);
  }
  return (
    <div>
      <Button onClick={go} disabled={waiting}>
        {waiting ? 'Waiting for the passkey…' : words}
      </Button>
      {problem && (
        <p role="alert" className="mt-2 text-clay">
          {problem}
        </p>
      )}
    </div>
  );
}

/** A redirect is an error to the framework, and none to us. */
function isOfFramework(error: unknown): boolean {
  return typeof (error as { digest?: unknown }).digest === 'string';
}

interface AddProps {
  offer: () => Promise<PasskeyOffered>;
  keep: (token: string, answer: unknown, name: string) => Promise<FormState>;
}

/** Makes a passkey on this device, or another one that is at hand. */
export function AddPasskey({ offer, keep }: AddProps) {
  const router = useRouter();
  async function add(form: FormData): Promise<FormState> {
    const { token, options } = await offer();
    let answer: unknown;
    try {
      answer = await startRegistration({ optionsJSON: options });
    } catch (error) {
      const problem = browserSupportsWebAuthn() ? wordsOf(error) : 'This browser knows no passkeys.';
      return { status: 'refused', message: problem, findings: [] };
    }
    return throughAsking(() => keep(token, answer, String(form.get('name') ?? '')));
  }
  return (
    <ActionForm action={add} submit="Add a passkey" busy="Waiting for the passkey…" onDone={() => router.refresh()}>
      <TextField
        name="name"
        label="What you call it"
        help="Such as “phone” or “key on my ring”: to tell it from others."
      />
    </ActionForm>
  );
}
