/** Runs an installation: web and engine, kept alive by a small supervisor. */
import { requireFreePort, say, supervise, untilAnswers, windgapProcesses } from './lib.mjs';
import { ensureReady } from './ready.mjs';

await ensureReady();
const port = Number(process.env.PORT ?? 3000);
await requireFreePort(port);
supervise(windgapProcesses(port, {}));
await untilAnswers(`http://127.0.0.1:${port}/health`);
say(`ready at ${process.env.WINDGAP_PUBLIC_URL ?? `http://localhost:${port}`}`);
