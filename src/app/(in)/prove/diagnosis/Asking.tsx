'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Panel } from '../../../../ui/primitives/layout';
import { probeAction } from './actions';

interface Props {
  /** The address of this page without the answer. */
  here: string;
  scope: { channel?: string; app?: string; phone?: string; message?: string };
  question?: { id: string; question: string; help: string };
  test?: { id: string; offer: string; like?: string };
  admin: boolean;
}

/** The next question, or the test that answers it; each answer is in the address, so that going back takes it back. */
export function Asking({ here, scope, question, test, admin }: Props) {
  const router = useRouter();
  const [testing, setTesting] = useState(false);
  const answer = (id: string, value: string) => router.push(`${here}&a=${id}:${value}`);

  async function doTest(id: string) {
    setTesting(true);
    const result = await throughAsking(() => probeAction(id, { ...scope, message: test?.like }));
    setTesting(false);
    if ('refused' in result) toast.error(result.refused);
    else {
      toast.success(
        `${result.said}: ${result.answer === 'yes' ? 'as it should be' : result.answer === 'no' ? 'not as it should be' : 'nothing to tell it by'}`,
      );
      answer(id, result.answer);
    }
  }

  if (test)
    return (
      <Panel className="mb-6 border-l-4 border-l-heather px-4 py-3">
        <p className="font-semibold">Windgap can find this out by itself</p>
        <p className="mt-0.5">
          {test.offer}, and see whether it arrives.{' '}
          {test.like &&
            'It repeats the words of the message below, where they are not a template’s: another text would prove nothing of this one. '}
          Nobody else is written to; routes and apps do with it what they do with any, and it costs one message at most.
        </p>
        <div className="mt-2 flex gap-2">
          <Button tone="primary" disabled={testing || !admin} onClick={() => doTest(test.id)}>
            {testing ? 'Testing, twelve seconds at most…' : 'Test it'}
          </Button>
          <Button onClick={() => answer(test.id, 'unknown')}>Without the test</Button>
        </div>
      </Panel>
    );
  if (!question) return null;
  return (
    <Panel className="mb-6 border-l-4 border-l-heather px-4 py-3">
      <p className="font-semibold">{question.question}</p>
      <p className="mt-0.5 text-[13px] text-soft">{question.help}</p>
      <div className="mt-2 flex gap-2">
        <Button onClick={() => answer(question.id, 'yes')}>Yes</Button>
        <Button onClick={() => answer(question.id, 'no')}>No</Button>
        <Button tone="quiet" onClick={() => answer(question.id, 'unknown')}>
          I don’t know
        </Button>
      </div>
    </Panel>
  );
}
