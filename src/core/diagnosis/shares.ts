/**
 * How much more or less often causes are behind a symptom than was set by hand: fitted on one part of the cases in
 * `tests/calibration/cases.json`, and scored on the other. Written by `npm run fit`.
 */
import type { Symptom } from './symptoms';

export const FITTED: Readonly<Record<string, Partial<Record<Symptom, number>>>> = {};
