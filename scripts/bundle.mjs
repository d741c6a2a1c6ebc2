/** How the processes beside Next.js are bundled: one file each, packages left where they are. */
import { builtinModules, createRequire } from 'node:module';
import { dirname } from 'node:path';
import { ROOT } from './lib.mjs';

export const PROCESSES = {
  web: 'src/web/main.ts',
  engine: 'src/engine/main.ts',
  worker: 'src/workers/main.ts',
  standins: 'standins/main.ts',
  seed: 'demo/seed.ts',
};

/** What tries the parsers, each in a thread. */
export const FUZZ = { fuzz: 'fuzz/main.ts', fuzzThread: 'fuzz/thread.ts' };

/** Packages that only the stand-ins use are part of their file: the product does not depend on them. */
const INSIDE = /^(cloudevents|smtp-server)$/;

const insideStandins = {
  name: 'inside-stand-ins',
  setup({ onResolve }) {
    onResolve({ filter: /^[^./]/ }, ({ path, importer, kind }) => {
      const fromPackage = importer.includes('node_modules');
      if (kind === 'entry-point' || !(INSIDE.test(path) || fromPackage)) return undefined;
      if (path.startsWith('node:') || builtinModules.includes(path)) return { path, external: true };
      return { path: createRequire(fromPackage ? importer : `${ROOT}/`).resolve(path, { paths: [dirname(importer)] }) };
    });
  },
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
    plugins: [insideStandins],
    // What is inside and was written for CommonJS asks for Node's own modules so.
    banner: {
      js: "import { createRequire as __createRequire } from 'node:module'; const require = __createRequire(import.meta.url);",
    },
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
