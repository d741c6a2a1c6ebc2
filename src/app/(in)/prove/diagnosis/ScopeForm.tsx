'use client';

import { useRouter } from 'next/navigation';
import { SYMPTOMS, type Symptom } from '../../../../core/diagnosis/symptoms';

interface Props {
  symptom?: string;
  scope: { channel?: string; app?: string; phone?: string };
  channels: [string, string][];
  apps: [string, string][];
}

const BOX = 'rounded border border-line-strong bg-panel px-2 py-1';

/** What is complained of and what it is about, kept in the address. */
export function ScopeForm({ symptom = '', scope, channels, apps }: Props) {
  const router = useRouter();
  function change(values: Record<string, string>) {
    const next = new URLSearchParams(
      Object.entries({ symptom, ...scope, ...values }).flatMap(([name, value]) => (value ? [[name, value]] : [])),
    );
    router.push(`/prove/diagnosis?${next}`);
  }
  return (
    <div className="mb-5 flex flex-wrap items-end gap-3">
      <Choice
        label="What is wrong"
        value={symptom}
        none="Choose below"
        options={(Object.keys(SYMPTOMS) as Symptom[]).map((id) => [id, SYMPTOMS[id].title])}
        onChange={(value) => change({ symptom: value })}
      />
      <Choice
        label="On channel"
        value={scope.channel ?? ''}
        none="any"
        options={channels}
        onChange={(value) => change({ channel: value })}
      />
      <Choice
        label="With app"
        value={scope.app ?? ''}
        none="any"
        options={apps}
        onChange={(value) => change({ app: value })}
      />
      <form
        className="text-[13px]"
        onSubmit={(event) => {
          event.preventDefault();
          change({ phone: String(new FormData(event.currentTarget).get('phone') ?? '') });
        }}
      >
        <label>
          <span className="mb-1 block text-soft">For the phone</span>
          <input
            name="phone"
            key={scope.phone}
            defaultValue={scope.phone}
            placeholder="any, or +44…"
            className={`${BOX} w-44 font-mono text-[13px]`}
          />
        </label>
      </form>
    </div>
  );
}

function Choice({
  label,
  value,
  none,
  options,
  onChange,
}: {
  label: string;
  value: string;
  none: string;
  options: [string, string][];
  onChange: (value: string) => void;
}) {
  return (
    <label className="text-[13px]">
      <span className="mb-1 block text-soft">{label}</span>
      <select className={BOX} value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">{none}</option>
        {options.map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
