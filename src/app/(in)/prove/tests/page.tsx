import { testPhones } from '../../../../operations/bench';
import { hasRole } from '../../../../operations/context';
import { listTests, spendingCap, spentOnTests, suggestedTests } from '../../../../operations/deliveryTests';
import { formatMoney } from '../../../../ui/domain/money';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { capAction, keepSuggestedAction, runChangedAction, runTestsAction } from './actions';
import { RunMark, RunStrip } from './RunMark';

export default async function TestsPage() {
  const { ctx, actor, since } = await signedIn();
  const [tests, suggestions, phones, cap, spent] = await Promise.all([
    listTests(ctx, actor),
    suggestedTests(ctx, actor),
    testPhones(ctx),
    spendingCap(ctx),
    spentOnTests(ctx),
  ]);
  const admin = hasRole(actor, 'administrator');
  const stale = tests.filter(({ staleBy }) => staleBy);
  const newest = stale.map(({ staleBy }) => staleBy).sort((a, b) => (b?.at ?? 0) - (a?.at ?? 0))[0];
  return (
    <Page
      title="Delivery tests"
      purpose="Something is done at one end of a path, and what must then be seen at the other ends, and by when. Only handsets of the bench and verified phones are written to."
      actions={
        admin && (
          <>
            {tests.length > 0 && (
              <ActionButton
                action={runTestsAction.bind(
                  null,
                  tests.map(({ test }) => test.id),
                )}
              >
                Run all
              </ActionButton>
            )}
            <Link href="/prove/tests/new" className={`plain ${buttonClass('primary')}`}>
              Write a test
            </Link>
          </>
        )
      }
    >
      <LiveRefresh since={since} topics={['test', 'routes', 'channel', 'app']} />
      {stale.length > 0 && newest && (
        <Panel className="mb-6 flex flex-wrap items-center justify-between gap-3 border-l-4 border-l-ochre px-4 py-2.5">
          <p>
            {stale.length === 1 ? 'One test covers' : `${stale.length} tests cover`} what was changed since:{' '}
            {newest.summary}, by {newest.by}, <Age at={newest.at} past />.
          </p>
          {admin && (
            <ActionButton
              action={runChangedAction.bind(
                null,
                stale.map(({ test }) => test.id),
              )}
            >
              {stale.length === 1 ? 'Run it' : 'Run them'}
            </ActionButton>
          )}
        </Panel>
      )}
      {tests.length === 0 && (
        <Empty
          what={
            phones.length > 0
              ? 'A delivery test proves a whole path, again and again. Begin with the suggestions below, or write one.'
              : 'Tests write to handsets of a bench or to phones verified by code. Verify a phone on a provider account first.'
          }
        />
      )}
      {tests.length > 0 && (
        <ul className="mb-7 grid gap-2" aria-label="Tests">
          {tests.map(({ test, words, last, states, flaky }) => (
            <li key={test.id} data-test={test.name}>
              <Panel className="flex flex-wrap items-start justify-between gap-x-5 gap-y-2 px-4 py-3">
                <div className="min-w-0 grow basis-[520px]">
                  <p className="flex flex-wrap items-baseline gap-x-3">
                    <Link href={`/prove/tests/${test.id}`} className="font-semibold">
                      {test.name}
                    </Link>
                    {test.everyMinutes !== null && (
                      <span className="text-[13px] text-soft">every {test.everyMinutes} min</span>
                    )}
                    {test.guardsPublishing === 1 && (
                      <span className="text-[13px] text-soft">required before publishing</span>
                    )}
                    {flaky && (
                      <span className="text-[13px] text-ochre-ink">
                        ▲ Passes and fails in turn while nothing was changed
                      </span>
                    )}
                  </p>
                  <p className="mt-0.5 max-w-[95ch] text-[13px] text-soft">{words}</p>
                </div>
                <div className="flex items-center gap-4">
                  <RunStrip states={states} />
                  {last ? (
                    <Link href={`/prove/tests/runs/${last.id}`}>
                      <RunMark state={last.state} />
                    </Link>
                  ) : (
                    <span className="text-soft">Never run</span>
                  )}
                  {admin && <ActionButton action={runTestsAction.bind(null, [test.id])}>Run</ActionButton>}
                </div>
              </Panel>
            </li>
          ))}
        </ul>
      )}
      {suggestions.length > 0 && (
        <Section
          title="Paths without a test"
          id="suggested"
          aside={
            admin &&
            suggestions.length > 1 && (
              <ActionButton tone="quiet" action={keepSuggestedAction}>
                Add all
              </ActionButton>
            )
          }
        >
          <ul className="grid gap-px overflow-hidden rounded-md border border-line bg-line">
            {suggestions.map(({ name }) => (
              <li key={name} className="flex items-center justify-between gap-3 bg-panel px-4 py-1.5">
                <span>{name}</span>
                {admin && (
                  <ActionButton tone="quiet" action={keepSuggestedAction.bind(null, name)}>
                    Add this test
                  </ActionButton>
                )}
              </li>
            ))}
          </ul>
        </Section>
      )}
      <p className="flex flex-wrap items-center gap-3 text-[13px] text-soft">
        <span>
          Tests cost {[...spent].map(([currency, micros]) => formatMoney(micros, currency)).join(' and ') || 'nothing'}{' '}
          in the last 24 hours;{' '}
          {cap ? `the cap is ${formatMoney(cap.micros, cap.currency)} a day.` : 'there is no cap.'}
        </span>
        {admin && (
          <DialogForm
            open="Set the cap"
            tone="quiet"
            title="What tests may cost a day"
            description="Where it is reached, runs are stopped and say so. Empty for no cap."
            submit="Save"
            action={capAction}
          >
            <TextField name="amount" label="Amount" initial={cap ? String(cap.micros / 1e6) : ''} exact />
            <TextField
              name="currency"
              label="Currency"
              initial={cap?.currency ?? [...spent.keys()][0] ?? 'GBP'}
              exact
            />
          </DialogForm>
        )}
        <a href="/prove/tests/report.xml" className="underline underline-offset-4">
          Latest runs as JUnit XML
        </a>
        <a href="/prove/tests/report.json" className="underline underline-offset-4">
          as JSON
        </a>
      </p>
    </Page>
  );
}
