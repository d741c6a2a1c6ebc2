/** What people complain of, in their words. */
export const SYMPTOMS = {
  'replies-missing': {
    title: 'Replies don’t appear',
    means: 'People write and nothing of it is seen, here or in the app.',
  },
  'nothing-arrives': { title: 'Nothing arrives', means: 'Messages are sent and no phone gets them.' },
  'only-some': { title: 'Only some people receive it', means: 'The same message reaches some and not others.' },
  'arrives-wrong': { title: 'It arrives, but wrong', means: 'Wrong letters, gaps, another language, in pieces.' },
  'arrives-twice': { title: 'It arrives twice', means: 'One message is on the phone more than once.' },
  'worked-before': { title: 'It worked yesterday', means: 'Nobody remembers having changed anything.' },
  'app-silent': {
    title: 'The app doesn’t get it',
    means: 'It is here in Windgap and not in the business application.',
  },
  'app-cannot-send': {
    title: 'The app’s messages don’t go out',
    means: 'A booking, a row, an event or a call should have sent a message and did not.',
  },
} as const;

export type Symptom = keyof typeof SYMPTOMS;

export function isSymptom(value: string | undefined): value is Symptom {
  return value !== undefined && Object.hasOwn(SYMPTOMS, value);
}
