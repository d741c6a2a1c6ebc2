'use client';

import { useMemo, useState, useTransition } from 'react';
import { parse } from 'yaml';
import { EvidenceBlock } from '../../../../ui/domain/EvidenceBlock';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { type TrialAnswer, tryProfileAction } from './actions';
import { Choice, Words } from './controls';

type Part = Parameters<typeof tryProfileAction>[0]['part'];

const PARTS: [Part, string, [string, string][]][] = [
  ['account', 'Check the account', []],
  ['numbers', 'List the numbers', []],
  [
    'search',
    'Search for numbers',
    [
      ['country', 'Country (two letters)'],
      ['digits', 'Wanted digits'],
    ],
  ],
  [
    'set-address',
    'Set the inbound address',
    [
      ['remoteId', 'Number’s id at the provider'],
      ['sender', 'Number'],
      ['url', 'Address'],
      ['fallback', 'Fallback address'],
    ],
  ],
  [
    'send',
    'Send a text, for real',
    [
      ['sender', 'From'],
      ['remoteId', 'Number’s id at the provider'],
      ['recipient', 'To a phone of yours'],
      ['text', 'Text'],
    ],
  ],
  ['inbound', 'Read a post', [['body', 'Body as the provider posts it']]],
];

interface CredentialField {
  name: string;
  label?: string;
  secret?: boolean;
  initial?: string;
}

/**
 * Tries one part of the text as it stands against a live account: what was asked, what came back, how it is read.
 * `accounts`: those whose kept credentials may be used, which is with the profile as it is saved only.
 */
export function Trial({ text, accounts }: { text: string; accounts: [string, string][] }) {
  const [part, setPart] = useState<Part>('account');
  const [chosenAccount, setAccount] = useState(accounts[0]?.[0] ?? '');
  const accountId = accounts.some(([id]) => id === chosenAccount) ? chosenAccount : '';
  const [values, setValues] = useState<Record<string, string>>({});
  const [credentials, setCredentials] = useState<Record<string, string>>({});
  const [answer, setAnswer] = useState<TrialAnswer>();
  const [waiting, startTransition] = useTransition();
  const fields = useMemo(() => credentialFields(text), [text]);
  const chosen = PARTS.find(([id]) => id === part);

  function run() {
    startTransition(async () => {
      const typed = Object.fromEntries(
        fields.map(({ name, initial }) => [name, credentials[name] ?? (accountId ? '' : (initial ?? ''))]),
      );
      setAnswer(
        await throughAsking(() =>
          tryProfileAction({ text, part, accountId: accountId || undefined, credentials: typed, values }),
        ),
      );
    });
  }

  return (
    <Section title="Try each part" id="try" aside="The audit keeps who tried what, and nothing else.">
      <Panel className="grid gap-3 p-4">
        {accounts.length > 0 && (
          <Choice
            label="Account"
            value={accountId}
            options={[...accounts, ['', 'values typed below']]}
            set={setAccount}
          />
        )}
        {!accountId &&
          fields.map(({ name, label, secret, initial }) => (
            <Words
              key={name}
              label={label ?? name}
              secret={secret}
              value={credentials[name] ?? initial ?? ''}
              set={(value) => setCredentials({ ...credentials, [name]: value })}
            />
          ))}
        <Choice
          label="Part"
          value={part}
          options={PARTS.map(([id, name]) => [id, name])}
          set={(value) => {
            setPart(value as Part);
            setAnswer(undefined);
          }}
        />
        {chosen?.[2].map(([name, label]) => (
          <Words
            key={name}
            label={label}
            long={name === 'body'}
            value={values[name] ?? ''}
            set={(value) => setValues({ ...values, [name]: value })}
          />
        ))}
        <div>
          <Button disabled={waiting} onClick={run}>
            {waiting ? 'Trying…' : 'Try it'}
          </Button>
        </div>
      </Panel>
      <div
        aria-live="polite"
        className="mt-3"
        data-trial={answer ? (answer.ok && answer.result.ok ? 'ok' : 'failed') : ''}
      >
        {answer && !answer.ok && <p className="text-clay">{answer.message}</p>}
        {answer?.ok && <Result result={answer.result} />}
      </div>
    </Section>
  );
}

function Result({ result }: { result: Extract<TrialAnswer, { ok: true }>['result'] }) {
  return (
    <div className="grid gap-3">
      <p className="flex items-center gap-2 font-medium">
        <ProofMark state={result.ok ? 'proven' : 'broken'} label="" />
        {result.ok ? 'It works; this is what Windgap reads:' : result.problem}
      </p>
      {result.missing.length > 0 && (
        <ul data-missing={result.missing.length} className="text-[13px]">
          {result.missing.map(({ line, name, path }) => (
            <li key={`${line} ${name}`}>
              Line {line}: <code>{name}</code> was looked for at <code>{path}</code>, and nothing is there.
            </li>
          ))}
        </ul>
      )}
      <pre tabIndex={0} className="max-h-56 overflow-auto rounded border border-line bg-panel p-2 font-mono text-xs">
        {result.read}
      </pre>
      {result.exchanges.map((exchange) => (
        <EvidenceBlock
          key={`${exchange.at} ${exchange.request.url}`}
          evidence={{
            id: '',
            title: 'Windgap called the provider',
            at: exchange.at,
            elapsedMs: exchange.elapsedMs,
            request: {
              line: `${exchange.request.method} ${exchange.request.url}`,
              headers: exchange.request.headers,
              body: exchange.request.body ?? '',
            },
            response: exchange.response
              ? {
                  line: `Status ${exchange.response.status}`,
                  headers: exchange.response.headers,
                  body: exchange.response.body,
                }
              : undefined,
          }}
        />
      ))}
    </div>
  );
}

/** The fields as the text has them now; none while it cannot be read. */
function credentialFields(text: string): CredentialField[] {
  try {
    const { credentials } = parse(text) as { credentials?: unknown };
    if (!Array.isArray(credentials)) return [];
    return credentials.filter((field): field is CredentialField => typeof field?.name === 'string');
  } catch {
    return [];
  }
}
