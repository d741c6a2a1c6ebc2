/** An event that has everything an event can have: what a reminder's text is tried with. */
export const EXAMPLE_EVENT = {
  title: 'Appointment, room 2',
  description: 'Bring the form.',
  location: 'Room 2',
  startsAt: Date.parse('2026-05-04T13:30:00Z'),
};
