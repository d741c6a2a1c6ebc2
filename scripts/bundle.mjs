/** How the processes beside Next.js are bundled: one file each, packages left where they are. */
import { ROOT } from './lib.mjs';

export const PROCESSES = {
  web: 'src/web/main.ts',
  engine: 'src/engine/main.ts',
  worker: 'src/workers/main.ts',
  standins: 'standins/main.ts',
  seed: 'demo/seed.ts',
};

export function bundleOf(entryPoints) {
  return {
    absWorkingDir: ROOT,
    entryPoints,
    outdir: 'dist',
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
  };
}

/** The chat window that websites load: one small script for browsers. */
export const WIDGET = {
  absWorkingDir: ROOT,
  entryPoints: { widget: 'src/widget/widget.ts' },
  outdir: 'dist',
  bundle: true,
  minify: true,
  platform: 'browser',
  format: 'iife',
  target: 'es2020',
  logLevel: 'warning',
};
