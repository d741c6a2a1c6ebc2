/** What to do about something that is wrong, as programs outside get it. */
export interface Remedy {
  fix: string;
  /** The former name of `fix`, kept so that programs written for it go on. */
  mend: string;
}

export function remedy(fix: string): Remedy {
  return { fix, mend: fix };
}
