/** The zone a cookie names, which anybody may have written; UTC when it names none. */
export function knownZone(name: string | undefined): string {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: name ?? 'UTC' }).resolvedOptions().timeZone;
  } catch {
    return 'UTC';
  }
}

interface Formats {
  time: Intl.DateTimeFormat;
  day: Intl.DateTimeFormat;
  dayAndYear: Intl.DateTimeFormat;
}

const made = new Map<string, Formats>();

/** How times are written in a zone. Making a format costs a hundred times what using it does, and a list shows hundreds of times. */
export function formatsOf(timeZone: string): Formats {
  const known = made.get(timeZone);
  if (known) return known;
  const day = { timeZone, weekday: 'short', day: 'numeric', month: 'short' } as const;
  const formats = {
    time: new Intl.DateTimeFormat('en-GB', { timeZone, timeStyle: 'medium' }),
    day: new Intl.DateTimeFormat('en-GB', day),
    dayAndYear: new Intl.DateTimeFormat('en-GB', { ...day, year: 'numeric' }),
  };
  made.set(timeZone, formats);
  return formats;
}
