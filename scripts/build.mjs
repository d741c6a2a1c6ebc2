/** Builds the web application and bundles the other processes. */
import { build } from 'esbuild';
import { bundleOf, PROCESSES, WIDGET } from './bundle.mjs';
import { must, NEXT, run, say } from './lib.mjs';

say('building the web application …');
must('next build', run('node', [NEXT, 'build']));
say('bundling web server, engine, stand-ins and demo data …');
await build(bundleOf(PROCESSES));
await build(WIDGET);
