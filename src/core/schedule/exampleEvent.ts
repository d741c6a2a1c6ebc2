/** An event that has everything an event can have: what a reminder's text is tried with. */
export const EXAMPLE_EVENT = {
  title: 'Passage, North lock',
  description: 'Bring the licence.',
  location: 'North lock',
  startsAt: Date.parse('2026-05-04T13:30:00Z'),
};
