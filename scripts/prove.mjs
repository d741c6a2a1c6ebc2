/**
 * Runs delivery tests of a running Windgap from a pipeline: `npm run prove [-- NAME …]`.
 * WINDGAP_URL (http://127.0.0.1:3000 when absent) and WINDGAP_API_KEY, a key with the scope
 * tests:run, say where and as whom; WINDGAP_JUNIT names a file for JUnit XML, WINDGAP_PROVE_SECONDS
 * how long it may take. Exit 0: all passed; 1: some failed; 2: it could not be run.
 */
import { writeFileSync } from 'node:fs';

const url = (process.env.WINDGAP_URL ?? 'http://127.0.0.1:3000').replace(/\/$/, '');
const key = process.env.WINDGAP_API_KEY;
const patience = Number(process.env.WINDGAP_PROVE_SECONDS ?? 600) * 1000;
const names = process.argv.slice(2);

function stop(text) {
  console.error(`windgap: ${text}`);
  process.exit(2);
}

async function call(method, path, body) {
  const answer = await fetch(`${url}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  }).catch((error) => stop(`${url} does not answer (${error.cause?.code ?? error.message}).`));
  const json = await answer.json().catch(() => ({}));
  if (!answer.ok) stop(json.detail ?? json.title ?? `${url} answered ${answer.status}.`);
  return json;
}

if (!key) stop('WINDGAP_API_KEY is not set; it is a key with the scope tests:run.');
const { batch, runs } = await call('POST', '/tests/runs', names.length > 0 ? { tests: names } : {});
if (runs.length === 0) stop('There are no delivery tests.');
console.log(`windgap: ${runs.length} delivery tests are running`);
const deadline = Date.now() + patience;
let report = await call('GET', `/tests/runs/${batch}`);
while (!report.done) {
  if (Date.now() > deadline) stop(`They have not ended in ${patience / 1000} seconds.`);
  await new Promise((resolve) => setTimeout(resolve, 1000));
  report = await call('GET', `/tests/runs/${batch}`);
}
for (const { name, state, problem, failures } of report.runs) {
  console.log(`${state === 'passed' ? 'passed' : state === 'failed' ? 'FAILED' : 'not run'}  ${name}`);
  if (problem) console.log(`        ${problem}`);
  for (const { expected, said } of failures) console.log(`        expected that ${expected}: ${said}`);
}
if (process.env.WINDGAP_JUNIT) writeFileSync(process.env.WINDGAP_JUNIT, report.junit);
console.log(
  `${report.passed} passed, ${report.failed} failed${report.stopped > 0 ? `, ${report.stopped} not run` : ''}`,
);
process.exit(report.failed > 0 ? 1 : report.stopped > 0 ? 2 : 0);
