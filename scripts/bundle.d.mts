import type { BuildOptions } from 'esbuild';

export const PROCESSES: Record<string, string>;
export const FUZZ: Record<string, string>;
export const WIDGET: BuildOptions;
export function bundleOf(entryPoints: Record<string, string>): BuildOptions;
