/** What to do about something that is wrong, as programs outside get it; older versions of the API name it otherwise, too. */
export interface PublishedRemedy {
  fix: string;
}

export function publishedRemedy(fix: string): PublishedRemedy {
  return { fix };
}
