'use client';

import { type FormEvent, useState, useTransition } from 'react';
import { PURPOSES } from '../../../../../core/connect/purposes';
import { formatMoney } from '../../../../../ui/domain/money';
import { SelectField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { Button } from '../../../../../ui/primitives/Button';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { claimAction, type SearchAnswer, searchAction } from '../actions';

type Offer = Extract<SearchAnswer, { ok: true }>['offers'][number];

interface Props {
  accounts: [string, string][];
  countries: [string, string][];
  initial: string;
}

export function NumberSearch({ accounts, countries, initial }: Props) {
  const [accountId, setAccount] = useState(initial);
  const [answer, setAnswer] = useState<SearchAnswer>();
  const [claimed, setClaimed] = useState<string[]>([]);
  const [waiting, startTransition] = useTransition();

  function search(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const text = (name: string) => String(form.get(name) ?? '').trim();
    startTransition(async () => {
      setAnswer(
        await throughAsking(() =>
          searchAction({ accountId, country: text('country'), areaCode: text('area'), digits: text('digits') }),
        ),
      );
    });
  }

  /** Another account has other numbers, and none of these. */
  function choose(id: string) {
    setAccount(id);
    setAnswer(undefined);
    setClaimed([]);
  }

  /** What was claimed is offered to nobody any more. */
  async function claim({ offerId, address }: Offer, form: FormData) {
    const state = await claimAction({ accountId, offerId, address }, form);
    if (state.status === 'done') setClaimed((before) => [...before, address]);
    return state;
  }

  return (
    <>
      <form onSubmit={search} className="mb-4">
        <Panel className="flex flex-wrap items-end gap-3 p-4">
          <Choice label="Account" name="account" value={accountId} options={accounts} onChange={choose} />
          <Choice label="Country" name="country" options={countries} />
          <Words label="Area code" name="area" size={8} />
          <Words label="Wanted digits" name="digits" size={10} />
          <Button type="submit" tone="primary" disabled={waiting}>
            {waiting ? 'Searching…' : 'Search'}
          </Button>
        </Panel>
      </form>
      {answer && !answer.ok && (
        <p role="alert" className="text-clay">
          {answer.message} <span className="text-ink">{answer.remedy}</span>
        </p>
      )}
      {answer?.ok && answer.offers.length === 0 && (
        <p role="status">No number fits. Leave the area code or the digits out.</p>
      )}
      {answer?.ok && answer.demands && (
        <p className={`mb-3 max-w-[90ch] border-l-4 pl-3 ${answer.demands.met ? 'border-moss' : 'border-ochre'}`}>
          {answer.demands.said}
        </p>
      )}
      {claimed.length > 0 && (
        <p role="status" className="mb-3">
          <span className="font-mono">{claimed.join(', ')}</span> {claimed.length === 1 ? 'is' : 'are'} yours.{' '}
          <Link href={`/connect/providers/${accountId}`}>Make it a channel</Link>
        </p>
      )}
      {answer?.ok && answer.offers.length > 0 && (
        <Table
          caption="Numbers that can be claimed"
          rows={answer.offers.filter(({ address }) => !claimed.includes(address))}
          keyOf={(offer) => offer.offerId}
          columns={[
            { head: 'Number', cell: (offer) => <Digits offer={offer} /> },
            { head: 'Abilities', cell: (offer) => offer.abilities.join(', ').replaceAll('text-', 'texts ') },
            {
              head: 'Set-up price',
              figures: true,
              cell: (offer) => formatMoney(offer.price?.setup, offer.price?.currency),
            },
            {
              head: 'Monthly price',
              figures: true,
              cell: (offer) => formatMoney(offer.price?.monthly, offer.price?.currency),
            },
            {
              head: 'Claim',
              cell: (offer) => (
                <DialogForm
                  open="Claim"
                  label={`Claim ${offer.address}`}
                  title={`Claim ${offer.address}?`}
                  description={`It costs ${formatMoney(offer.price?.setup, offer.price?.currency)} once and ${formatMoney(offer.price?.monthly, offer.price?.currency)} a month, from the account’s credit, until it is released.`}
                  submit="Claim it"
                  busy="Asking the provider…"
                  action={(form) => claim(offer, form)}
                >
                  <SelectField
                    name="purpose"
                    label="What it is for"
                    options={[['', 'not set'], ...(Object.entries(PURPOSES) as [string, string][])]}
                  />
                </DialogForm>
              ),
            },
          ]}
        />
      )}
    </>
  );
}

/** The digits that fit the wish stand out. */
function Digits({ offer: { address, similarity } }: { offer: Offer }) {
  const { place } = similarity;
  if (!place) return <span className="font-mono">{address}</span>;
  return (
    <span className="font-mono">
      {address.slice(0, place.from)}
      <mark className="rounded-sm bg-heather px-0.5 text-on-ridge">{address.slice(place.from, place.to)}</mark>
      {address.slice(place.to)}
    </span>
  );
}

const CONTROL = 'h-8 rounded border border-line-strong bg-panel px-2';

function Choice({
  label,
  name,
  options,
  value,
  onChange,
}: {
  label: string;
  name: string;
  options: [string, string][];
  value?: string;
  onChange?: (value: string) => void;
}) {
  return (
    <label className="grid gap-0.5 text-[13px]">
      <span className="text-soft">{label}</span>
      <select
        name={name}
        className={CONTROL}
        {...(value === undefined ? {} : { value })}
        onChange={(event) => onChange?.(event.target.value)}
      >
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

function Words({ label, name, size }: { label: string; name: string; size: number }) {
  return (
    <label className="grid gap-0.5 text-[13px]">
      <span className="text-soft">{label}</span>
      <input name={name} size={size} inputMode="numeric" className={`${CONTROL} font-mono`} />
    </label>
  );
}
