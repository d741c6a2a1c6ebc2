/** What to do about something that is wrong, as programs outside get it. */
export interface PublishedRemedy {
  fix: string;
  /** The former name of `fix`, kept so that programs written for it go on. */
  mend: string;
}

export function publishedRemedy(fix: string): PublishedRemedy {
  return { fix, mend: fix };
}
