/** Causes around templates: why one was not taken for review, and why it cannot be sent. */
import { by, type Cause } from '../cause';

const said = (text: string | undefined) => (text ? `: ${text}` : '');

export const TEMPLATES_CAUSES = {
  'template-not-submitted': {
    title: 'The template was saved but never submitted',
    explain: (c) => `${c.subject ?? 'The template'} was saved here and never submitted to ${by(c, 'the platform')}.`,
    remedy: 'Open the template and submit it; it can be used as soon as it is approved.',
    transient: false,
  },
  'template-not-approved': {
    title: 'The template is not approved',
    explain: (c) => `${c.subject ?? 'The template'} is not approved by ${by(c, 'the platform')}${said(c.said)}.`,
    remedy: 'Wait for the review, or revise what was rejected.',
    transient: false,
  },
  'template-paused': {
    title: 'The platform has paused the template',
    explain: (c) => `${by(c, 'The platform')} paused ${c.subject ?? 'the template'}${said(c.said)}.`,
    remedy: 'Send it to fewer people who did not ask for it, revise it, and submit it again.',
    transient: false,
  },
  'template-unknown': {
    title: 'The platform does not know the template',
    explain: (c) => `${by(c, 'The platform')} has no such template.`,
    remedy: 'It was probably removed there. Submit it again.',
    transient: false,
  },
  'template-language-missing': {
    title: 'The template has no variant in this language',
    explain: (c) => `${c.subject ?? 'The template'} has no variant in the language of this person.`,
    remedy: 'Add a variant in this language and submit it.',
    transient: false,
  },
  'template-values-wrong': {
    title: 'The values do not fit the template',
    explain: (c) => `The values do not fit ${c.subject ?? 'the template'}${said(c.said)}.`,
    remedy: 'Give each variable one value of one line.',
    transient: false,
  },
  'template-name-refused': {
    title: 'The platform does not take the name',
    explain: (c) => `${by(c, 'The platform')} does not take this name${said(c.said)}.`,
    remedy: 'Change the name as the finding beside it says.',
    transient: false,
  },
  'template-name-taken': {
    title: 'The name is taken',
    explain: (c) => `${by(c, 'The platform')} has a template of this name.`,
    remedy: 'Choose another name.',
    transient: false,
  },
  'template-file-type': {
    title: 'The platform does not take this type of file',
    explain: (c) => `${by(c, 'The platform')} does not take the header’s file${said(c.said)}.`,
    remedy: 'Upload a file of a type that is taken.',
    transient: false,
  },
  'template-file-size': {
    title: 'The file is too large',
    explain: (c) => `${by(c, 'The platform')} does not take the header’s file${said(c.said)}.`,
    remedy: 'Make it smaller and upload it again.',
    transient: false,
  },
  'template-malformed': {
    title: 'The template does not keep the platform’s limits',
    explain: (c) => `${by(c, 'The platform')} did not take it for review${said(c.said)}.`,
    remedy: 'Fix the findings beside the text and submit it again.',
    transient: false,
  },
  'template-waiting': {
    title: 'A version of it is in review already',
    explain: (c) => `${by(c, 'The platform')} is still reviewing an earlier version.`,
    remedy: 'Wait until that is decided, then submit.',
    transient: true,
  },
  'template-too-many': {
    title: 'Too many templates were submitted in a short time',
    explain: (c) => `${by(c, 'The platform')} takes no more for now${said(c.said)}.`,
    remedy: 'Submit it later; it stays saved.',
    transient: true,
  },
} satisfies Record<string, Cause>;
