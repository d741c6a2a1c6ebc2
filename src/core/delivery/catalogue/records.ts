/** Causes where Windgap keeps records in an app. */
import { by, type Cause } from '../cause';

export const RECORDS_CAUSES = {
  'record-refused': {
    title: 'The app does not take this record',
    explain: (c) => `${by(c, 'The app')} refused it${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Change which field is filled with what at the record action, or fix the rule in the app.',
    transient: false,
    breaks: 'call-out',
  },
  'record-field-empty': {
    title: 'A field that the app needs came empty',
    explain: (c) => c.said ?? 'The message has nothing to fill it with.',
    remedy: 'Add what to say instead at the record action: {{ field | default: "…" }}.',
    transient: false,
    breaks: 'call-out',
  },
  'record-uncertain': {
    title: 'Whether the app made the record is not known',
    explain: (c) =>
      `${by(c, 'The app')} gave no answer, and it does not tell repeats from new ones${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Look in the app. Windgap does not try again, so that there are never two.',
    transient: false,
    breaks: 'call-out',
  },
  'app-credential-refused': {
    title: 'The app does not accept our credentials',
    explain: (c) => `${by(c, 'The app')} refused them${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Put the app’s present credentials in on its page under Records; check that they may write.',
    transient: false,
    breaks: 'call-out',
  },
  'sheet-not-written': {
    title: 'The sheet could not be written',
    explain: (c) => `${c.subject ?? 'The sheet'} could not be written${c.said ? `: ${c.said}` : ''}.`,
    remedy:
      'Check that the file can be written and that no other program holds it open. Windgap keeps trying for a day.',
    transient: true,
    breaks: 'call-out',
  },
  'sheet-not-read': {
    title: 'The sheet could not be read',
    explain: (c) => c.said ?? 'The file or address gives no sheet.',
    remedy: 'Put the file back into the folder for sheets, or correct its name or address.',
    transient: true,
    breaks: 'call-in',
  },
  'sheet-rows-held': {
    title: 'New rows of a sheet are held',
    explain: (c) => c.said ?? 'So many rows are new at once that they may be old rows that were changed.',
    remedy: 'Say on the page of the sheet whether they are to be sent, or were there before.',
    transient: false,
    breaks: 'call-in',
  },
  'mail-not-set': {
    title: 'There is no mail account for notices',
    explain: () => 'Nobody has said which mail account notices leave through.',
    remedy: 'Set it under Settings, Mail.',
    transient: false,
  },
  'feed-not-read': {
    title: 'The calendar feed could not be read',
    explain: (c) => c.said ?? 'Its address gives no iCalendar.',
    remedy: 'Copy the address of the feed again from the calendar’s settings; it ends in .ics as a rule.',
    transient: true,
    breaks: 'call-in',
  },
  'records-not-connected': {
    title: 'The app’s records are not connected',
    explain: (c) => `There are no credentials for ${by(c, 'the app')}.`,
    remedy: 'Connect its records on the app’s page.',
    transient: false,
    breaks: 'call-out',
  },
} satisfies Record<string, Cause>;
