'use client';

import type { DeliveryTest, Expectation } from '../../../../core/deliveryTest/deliveryTest';
import { Pick, Say, Seconds } from './parts';
import type { TestChoices } from './testChoices';

const first = (options: readonly (readonly [string, string])[]) => options[0]?.[0] ?? '';

/** An expectation to begin with; the phone is the one the test writes from or to. */
export function newExpectation(
  kind: Expectation['expect'],
  { stimulus }: DeliveryTest,
  choices: TestChoices,
): Expectation {
  const phone = 'phone' in stimulus ? stimulus.phone : first(choices.phones);
  switch (kind) {
    case 'arrives':
      return { expect: kind, phone, within: 20, way: 'contains', text: '' };
    case 'routed':
      return { expect: kind, route: first(choices.routes) };
    case 'told':
      return { expect: kind, app: first(choices.apps), within: 20, field: '', value: '' };
    case 'record': {
      const [app = '', record = ''] = first(choices.records).split(' ');
      return { expect: kind, app, record, phone, within: 30 };
    }
    case 'delivered':
    case 'round-trip':
      return { expect: kind, within: 40 };
    case 'once':
      return { expect: kind, during: 10 };
    case 'silence':
      return { expect: kind, phone, during: 10 };
    case 'refused':
      return { expect: kind, cause: '' };
  }
}

/** One expectation as a sentence. */
export function ExpectationLine({
  expectation: each,
  choices,
  onChange,
}: {
  expectation: Expectation;
  choices: TestChoices;
  onChange: (expectation: Expectation) => void;
}) {
  const phone = (value: string, change: (phone: string) => void) => (
    <Pick label="Handset" value={value} options={choices.phones} onChange={change} />
  );
  return (
    <div className="flex flex-wrap items-center gap-1.5" data-expectation={each.expect}>
      {each.expect === 'arrives' && (
        <>
          at {phone(each.phone, (value) => onChange({ ...each, phone: value }))} arrives
          <Pick
            label="Which text"
            value={each.way}
            options={[
              ['contains', 'a text containing'],
              ['is', 'exactly'],
              ['anything', 'any text'],
            ]}
            onChange={(way) => onChange({ ...each, way: way as typeof each.way })}
          />
          {each.way !== 'anything' && (
            <Say label="Text awaited" value={each.text} onChange={(text) => onChange({ ...each, text })} />
          )}
          within{' '}
          <Seconds label="Within seconds" value={each.within} onChange={(within) => onChange({ ...each, within })} />
        </>
      )}
      {each.expect === 'routed' && (
        <>
          it is handled by
          <Pick
            label="Route"
            none="no route"
            value={each.route}
            options={choices.routes}
            onChange={(route) => onChange({ ...each, route })}
          />
        </>
      )}
      {each.expect === 'told' && (
        <>
          <Pick
            label="App that is notified"
            value={each.app}
            options={choices.apps}
            onChange={(app) => onChange({ ...each, app })}
          />
          accepts the event within{' '}
          <Seconds label="Within seconds" value={each.within} onChange={(within) => onChange({ ...each, within })} />,
          with
          <Say
            label="a field, such as data.text"
            value={each.field}
            onChange={(field) => onChange({ ...each, field })}
          />
          {each.field && (
            <>
              = <Say label="Value" value={each.value} onChange={(value) => onChange({ ...each, value })} />
            </>
          )}
        </>
      )}
      {each.expect === 'record' && (
        <>
          there is one more
          <Pick
            label="Kind of record"
            value={`${each.app} ${each.record}`}
            options={choices.records}
            onChange={(value) => {
              const [app = '', record = ''] = value.split(' ');
              onChange({ ...each, app, record });
            }}
          />
          of {phone(each.phone, (value) => onChange({ ...each, phone: value }))} than before, within
          <Seconds label="Within seconds" value={each.within} onChange={(within) => onChange({ ...each, within })} />
        </>
      )}
      {(each.expect === 'delivered' || each.expect === 'round-trip') && (
        <>
          {each.expect === 'delivered'
            ? 'its receipt says delivered within'
            : 'the reply is back, receipt included, within'}
          <Seconds label="Within seconds" value={each.within} onChange={(within) => onChange({ ...each, within })} />
        </>
      )}
      {each.expect === 'once' && (
        <>
          nothing arrives a second time in
          <Seconds label="During seconds" value={each.during} onChange={(during) => onChange({ ...each, during })} />
        </>
      )}
      {each.expect === 'silence' && (
        <>
          at {phone(each.phone, (value) => onChange({ ...each, phone: value }))} nothing arrives in
          <Seconds label="During seconds" value={each.during} onChange={(during) => onChange({ ...each, during })} />
        </>
      )}
      {each.expect === 'refused' && (
        <>
          it is refused, because
          <Pick
            label="Cause"
            none="of any cause"
            value={each.cause}
            options={choices.causes}
            onChange={(value) => onChange({ ...each, cause: value })}
          />
        </>
      )}
    </div>
  );
}
