/** What boaters and the trust say to each other. Everybody and everything here is invented. */

export const BOATERS: { name: string | null; number: string }[] = [
  { name: 'Ines Calder', number: '+447700900123' },
  { name: 'Tomas Lindqvist', number: '+46701740612' },
  { name: 'Odile Marchand', number: '+33639980417' },
  { name: 'Perrin Achterberg', number: '+447700900217' },
  { name: 'Wilhelmina Frost', number: '+447700900268' },
  { name: 'Dafydd Marrow', number: '+447700900305' },
  { name: 'Solveig Ek', number: '+46701740655' },
  { name: 'Bastien Roulleau', number: '+33639980522' },
  { name: 'Hester Quayle', number: '+447700900371' },
  { name: 'Anselm Pike', number: '+447700900402' },
  { name: null, number: '+447700900433' },
  { name: 'Morwenna Tull', number: '+447700900479' },
  { name: 'Gudrun Saltmarsh', number: '+447700900514' },
  { name: null, number: '+12125550147' },
  { name: 'Edda Brandt', number: '+447700900561' },
  { name: 'Rufus Ollerton', number: '+447700900588' },
  { name: 'Noor Vantongeren', number: '+33639980688' },
  { name: null, number: '+447700900642' },
  { name: 'Casimir Hobday', number: '+61491570156' },
  { name: 'Lettice Varley', number: '+447700900697' },
];

/** A text and the answer it usually gets; `app` answers come from Lockbook within seconds. */
export const EXCHANGES: { asks: string; answer: string; by: 'app' | 'agent'; channel: 'harbour' | 'locks' }[] = [
  {
    asks: 'LOCK Heron Staircase 14:20, narrowboat Marsh Lantern',
    answer: 'Passage booked: Heron Staircase 14:20. Show this text to the keeper.',
    by: 'app',
    channel: 'locks',
  },
  {
    asks: 'LOCK Tollgate 09:00 two boats',
    answer: 'Passage booked: Tollgate 09:00, two boats. Show this text to the keeper.',
    by: 'app',
    channel: 'locks',
  },
  {
    asks: 'Is Fallowfield lock open tomorrow?',
    answer: 'Yes, from 08:00. Expect a wait of about 40 minutes before noon.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'Tree across the cut below bridge 41',
    answer: 'Thank you. A crew is on its way; please keep clear until they wave you through.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'How do I renew my mooring? Boat Second Wind, berth C12',
    answer: 'Your mooring runs to the 30th. Reply RENEW and we send the form to this number.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'RENEW',
    answer: 'Mooring C12 renewed until 31 March. The receipt is in your post.',
    by: 'app',
    channel: 'harbour',
  },
  {
    asks: "L'écluse de Hautpont est-elle ouverte dimanche ?",
    answer: 'Oui, de 9 h à 17 h. Merci de réserver la veille.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'Kan vi få båtplats för en natt i hamnen?',
    answer: 'Ja, plats B7 är ledig i natt. Välkomna före kl. 20.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'Water point at Eelbrook is frozen',
    answer: 'Thanks for telling us. Use the one at Tollgate; Eelbrook should run again by noon.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'Engine trouble near lock 7, drifting slowly 😟',
    answer: 'We have your report. Harbour launch reaches you in about 15 minutes. Stay aboard.',
    by: 'agent',
    channel: 'harbour',
  },
  {
    asks: 'LOCK Heron Staircase 16:40',
    answer: 'Passage booked: Heron Staircase 16:40. Show this text to the keeper.',
    by: 'app',
    channel: 'locks',
  },
  {
    asks: 'What is the headroom at Saxon bridge now',
    answer: 'Saxon bridge: 2.10 m at present level, 1.95 m after the rain expected tonight.',
    by: 'agent',
    channel: 'harbour',
  },
];
