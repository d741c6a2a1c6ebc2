'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { systemClock } from '../../../../clock/clock';
import type { SinglePlan, SingleWay } from '../../../../operations/broadcasts';
import { formatMoney } from '../../../../ui/domain/money';
import type { FormState } from '../../../../ui/forms/formState';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Panel } from '../../../../ui/primitives/layout';
import { PeopleSearch } from '../_parts/PeopleSearch';
import { planSingleAction, sendSingleAction } from './actions';

/** Whom, what, and over which channel: each channel says how it would go, or why not. */
export function MessageForm({ to: given, name: givenName }: { to: string; name?: string }) {
  const router = useRouter();
  const [to, setTo] = useState(given);
  const [name, setName] = useState(givenName ?? (given.startsWith('con_') ? undefined : given));
  const [text, setText] = useState('');
  const [plan, setPlan] = useState<SinglePlan>();
  const [problem, setProblem] = useState<string>();
  const [picked, setPicked] = useState<string>();
  const [refused, setRefused] = useState<Extract<FormState, { status: 'refused' }>>();
  const [sent, setSent] = useState(false);
  const [busy, startTransition] = useTransition();

  useEffect(() => {
    if (to.trim() === '' || text.trim() === '') return setPlan(undefined);
    let over = false;
    const timer = systemClock.after(250, async () => {
      const answer = await throughAsking(() => planSingleAction({ to, text }));
      if (over) return;
      setPlan('ways' in answer ? answer : undefined);
      setProblem('problem' in answer ? answer.problem : undefined);
    });
    return () => {
      over = true;
      timer.cancel();
    };
  }, [to, text]);

  const going = plan?.ways.filter(({ judged }) => judged.goes) ?? [];
  const channel = going.find(({ channelId }) => channelId === picked)?.channelId ?? going[0]?.channelId;

  function send() {
    if (!channel) return;
    startTransition(async () => {
      const answer = await throughAsking(() => sendSingleAction({ to, text, channel }));
      setRefused(answer.status === 'refused' ? answer : undefined);
      if (answer.status !== 'done') return;
      setSent(true);
      toast.success('On its way');
      router.push(`/route/conversations/${answer.values?.conversationId}`);
    });
  }

  return (
    <Panel className="grid max-w-3xl gap-4 p-4">
      <div>
        <span className="mb-1 block font-medium">To</span>
        {name === undefined || to === '' ? (
          <PeopleSearch
            label="To"
            taken={[]}
            placeholder="Name, number or e-mail address"
            onTyped={setTo}
            onFound={([id, words]) => {
              setTo(id);
              setName(words);
            }}
          />
        ) : (
          <span className="inline-flex items-center gap-1 rounded border border-line-strong px-2 py-1 text-[13px]">
            {name}
            <button
              type="button"
              aria-label="Choose somebody else"
              className="px-1 text-clay"
              onClick={() => {
                setTo('');
                setName(undefined);
              }}
            >
              ×
            </button>
          </span>
        )}
        {plan?.name && plan.name !== name && <p className="mt-1 text-[13px] text-soft">This is {plan.name}.</p>}
      </div>
      <label className="block">
        <span className="mb-1 block font-medium">Text</span>
        <textarea
          rows={5}
          className="w-full rounded border border-line-strong bg-panel px-2.5 py-1.5"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      {problem && <p className="text-[13px] text-clay">■ {problem}</p>}
      {plan && (
        <fieldset>
          <legend className="mb-1 font-medium">Over</legend>
          <ul className="grid gap-2">
            {plan.ways.map((way) => (
              <Way key={way.channelId} way={way} chosen={way.channelId === channel} onChoose={setPicked} />
            ))}
          </ul>
          {plan.ways.length === 0 && <p className="text-[13px] text-soft">There is no channel that sends.</p>}
        </fieldset>
      )}
      {refused && (
        <div role="alert" className="rounded border border-clay px-3 py-2 text-clay">
          ■ {refused.message}
          {refused.findings.map(({ finding }) => (
            <p key={finding.code + finding.problem} className="text-[13px]">
              {finding.remedy}
            </p>
          ))}
        </div>
      )}
      <div>
        <Button tone="primary" disabled={busy || sent || !channel} onClick={send}>
          {busy ? 'Sending…' : 'Send'}
        </Button>
      </div>
    </Panel>
  );
}

function Way({
  way: { channelId, channelName, answered, judged, reason },
  chosen,
  onChoose,
}: {
  way: SingleWay;
  chosen: boolean;
  onChoose: (id: string) => void;
}) {
  return (
    <li className="rounded border border-line px-3 py-2" data-way={judged.goes ? 'goes' : judged.why.code}>
      <label className="flex items-baseline gap-2">
        <input
          type="radio"
          name="channel"
          checked={chosen}
          disabled={!judged.goes}
          onChange={() => onChoose(channelId)}
        />
        <span className={judged.goes ? 'font-medium' : 'text-soft'}>{channelName}</span>
      </label>
      <p className="ml-6 text-[13px] text-soft">
        {judged.goes ? (
          <>
            to {judged.message.identity.value}, {judged.message.parts} {judged.message.parts === 1 ? 'part' : 'parts'},{' '}
            {judged.message.price
              ? formatMoney(judged.message.price.micros, judged.message.price.currency)
              : 'price not known'}
            ; it is {timeIn(judged.message.zone.zone)} there ({judged.message.zone.zone})
            {!answered && '; nobody can answer it there'}
          </>
        ) : (
          <>
            ■ {reason?.title}
            {judged.why.said ? `: ${judged.why.said}` : ''}. {reason?.remedy}
          </>
        )}
      </p>
    </li>
  );
}

function timeIn(zone: string): string {
  return new Intl.DateTimeFormat('en-GB', { timeZone: zone, hour: '2-digit', minute: '2-digit' }).format(
    systemClock.now(),
  );
}
