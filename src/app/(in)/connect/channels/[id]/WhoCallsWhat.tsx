import { type ChannelKind, channelKind } from '../../../../../core/connect/channelKinds';

/** Which way each call goes, drawn: the most common confusion of this trade is the direction of an address. */
export function WhoCallsWhat({
  kind,
  provider,
  fetched,
}: {
  kind: ChannelKind;
  provider: string;
  /** What comes in is looked for, and not posted. */
  fetched: boolean;
}) {
  const { out, back } = channelKind(kind).calls;
  return (
    <figure className="rounded-md border border-line bg-panel px-4 py-3">
      <div className="grid grid-cols-[1fr_1.3fr_1fr] items-center gap-x-2">
        <Party name={provider} owns="its address" />
        <div className="grid gap-2">
          <Arrow to="left" text={out} />
          <Arrow to={fetched ? 'left' : 'right'} text={fetched ? `looks for ${back}` : back} />
        </div>
        <Party name="Windgap" owns={fetched ? 'nothing that is called' : 'the inbound URL'} />
      </div>
      <figcaption className="sr-only">
        Windgap calls {provider}: {out}.{' '}
        {fetched ? `Windgap looks there for ${back}` : `${provider} calls Windgap: ${back}`}.
      </figcaption>
    </figure>
  );
}

function Party({ name, owns }: { name: string; owns: string }) {
  return (
    <div className="rounded border border-line-strong px-2 py-2 text-center" aria-hidden>
      <p className="font-medium break-words">{name}</p>
      <p className="text-xs text-soft">owns {owns}</p>
    </div>
  );
}

function Arrow({ to, text }: { to: 'left' | 'right'; text: string }) {
  const left = to === 'left';
  return (
    <div aria-hidden>
      <p className="text-center text-xs text-soft">{text}</p>
      <svg viewBox="0 0 120 10" className={`w-full ${left ? 'text-ridge' : 'text-heather'}`} aria-hidden="true">
        <path
          d={left ? 'M118 5H4M11 1L4 5L11 9' : 'M2 5H116M109 1L116 5L109 9'}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.6"
        />
      </svg>
    </div>
  );
}
