/** For working on Windgap: the web with reloading, the engine rebuilt and restarted on each change. */
import { bundleOf, PROCESSES, WIDGET } from './bundle.mjs';
import { NEXT, supervise } from './lib.mjs';
import { ensureCompiled, ensurePackages } from './ready.mjs';

ensurePackages();
await ensureCompiled();
const { build, context } = await import('esbuild');
const port = process.env.PORT ?? '3000';
const bundles = await context(bundleOf(PROCESSES));
await bundles.rebuild();
await build(WIDGET);
await bundles.watch();
const env = { WINDGAP_ALLOW_PRIVATE: '1' };
supervise([
  { name: 'web', args: [NEXT, 'dev', '-H', '127.0.0.1', '-p', port], env },
  { name: 'engine', args: ['--watch', 'dist/engine.mjs'], env },
]);
