import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { expect, test } from 'vitest';

const LARGEST = 20 * 1024;

test('what a website loads stays small, brings no package along and leaves no global behind', async () => {
  const { WIDGET } = await import('../../scripts/bundle.mjs' as string);
  const { outputFiles, metafile } = await build({ ...WIDGET, write: false, metafile: true });
  const script = outputFiles?.[0]?.text ?? '';
  expect(gzipSync(script).length).toBeLessThan(LARGEST);
  expect(Object.keys(metafile?.inputs ?? {}).filter((input) => input.includes('node_modules'))).toEqual([]);
  expect(script).toMatch(/^"use strict";\(\(\)=>\{/);
});
