/**
 * Words by which people leave and come back, by language; the English ones are the
 * trade's. Only a message that says nothing else counts: "please stop by the lock" is
 * not an opt-out.
 */
export type ConsentWord = { kind: 'stop' | 'start' | 'help'; language: string; word: string };

interface Words {
  stop: readonly string[];
  start: readonly string[];
  /** Who is this, and where is help? */
  help: readonly string[];
  /** How to leave, as it stands below a text. */
  leaving: string;
  /** What is answered to each. */
  stopped: string;
  started: string;
}

const LANGUAGES: Record<string, Words> = {
  en: {
    stop: ['stop', 'stopall', 'stop all', 'unsubscribe', 'cancel', 'end', 'quit', 'opt out', 'optout'],
    start: ['start', 'unstop', 'subscribe', 'opt in', 'optin'],
    help: ['help', 'info'],
    leaving: 'Reply STOP to get no more messages.',
    stopped: 'You will get no more messages from us. Reply START to get them again.',
    started: 'You will get messages from us again. Reply STOP to get no more.',
  },
  sv: {
    stop: ['stopp', 'sluta', 'avsluta', 'avregistrera', 'avanmäl'],
    start: ['starta', 'börja'],
    help: ['hjälp', 'hjalp'],
    leaving: 'Svara STOPP för att inte få fler meddelanden.',
    stopped: 'Du får inga fler meddelanden från oss. Svara START för att få dem igen.',
    started: 'Du får meddelanden från oss igen. Svara STOPP för att slippa dem.',
  },
  fr: {
    stop: ['arrêt', 'arret', 'arrêter', 'désabonner', 'desabonner', 'désinscription'],
    start: ['reprendre', 'réabonner', 'reabonner'],
    help: ['aide'],
    leaving: 'Répondez STOP pour ne plus recevoir de messages.',
    stopped: 'Vous ne recevrez plus de messages de notre part. Répondez START pour en recevoir à nouveau.',
    started: 'Vous recevrez à nouveau nos messages. Répondez STOP pour ne plus en recevoir.',
  },
  de: {
    stop: ['stopp', 'abmelden', 'abbestellen', 'ende', 'austragen'],
    start: ['anmelden', 'wieder anmelden'],
    help: ['hilfe'],
    leaving: 'Antworten Sie STOPP, um keine Nachrichten mehr zu erhalten.',
    stopped: 'Sie erhalten keine Nachrichten mehr von uns. Antworten Sie START, um sie wieder zu erhalten.',
    started: 'Sie erhalten wieder Nachrichten von uns. Antworten Sie STOPP, um keine mehr zu erhalten.',
  },
  nl: {
    stop: ['afmelden', 'stoppen', 'uitschrijven'],
    start: ['aanmelden', 'hervatten'],
    help: ['hulp'],
    leaving: 'Antwoord STOP om geen berichten meer te krijgen.',
    stopped: 'U krijgt geen berichten meer van ons. Antwoord START om ze weer te krijgen.',
    started: 'U krijgt weer berichten van ons. Antwoord STOP om ze niet meer te krijgen.',
  },
  es: {
    stop: ['baja', 'alto', 'parar', 'cancelar', 'detener'],
    start: ['alta', 'iniciar', 'reanudar'],
    help: ['ayuda', 'información', 'informacion'],
    leaving: 'Responda STOP para no recibir más mensajes.',
    stopped: 'No recibirá más mensajes nuestros. Responda START para volver a recibirlos.',
    started: 'Volverá a recibir nuestros mensajes. Responda STOP para no recibir más.',
  },
  pl: {
    stop: ['wypisz', 'rezygnuję', 'rezygnuje', 'koniec'],
    start: ['zapisz', 'wznów', 'wznow'],
    help: ['pomoc'],
    leaving: 'Odpowiedz STOP, aby nie otrzymywać wiadomości.',
    stopped: 'Nie będziesz już otrzymywać od nas wiadomości. Odpowiedz START, aby je znów otrzymywać.',
    started: 'Znów będziesz otrzymywać nasze wiadomości. Odpowiedz STOP, aby ich nie otrzymywać.',
  },
};

/** Case, punctuation and space around and between the words do not count. */
function bare(text: string): string {
  return text
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();
}

/** Longer than any of the words, with room for punctuation. */
const LONGEST = 60;

/** The person's own language first, as one word may be of several. */
export function consentWord(text: string, language?: string): ConsentWord | undefined {
  if (text.length > LONGEST) return undefined;
  const said = bare(text);
  if (said === '') return undefined;
  const own = language?.toLowerCase().split('-')[0];
  const order = Object.keys(LANGUAGES).sort((a, b) => Number(b === own) - Number(a === own));
  for (const kind of ['stop', 'start', 'help'] as const) {
    for (const name of order) {
      const words = LANGUAGES[name] as Words;
      if (!words[kind].includes(said)) continue;
      // The trade's own words are known everywhere and are answered in the person's language.
      const answered = name === 'en' && own !== undefined && Object.hasOwn(LANGUAGES, own) ? own : name;
      return { kind, language: answered, word: said };
    }
  }
  return undefined;
}

/** Whether a text tells how to leave: one of the words for it, with which to reply, or a link that says so. */
export function saysHowToLeave(text: string): boolean {
  const said = ` ${bare(text)} `;
  return Object.values(LANGUAGES).some(({ stop }) =>
    stop.some((word) => !COMMON.has(word) && said.includes(` ${word} `)),
  );
}

/** Words to leave with that stand in many a text that does not say how to. */
const COMMON = new Set(['end', 'cancel', 'quit', 'ende', 'cancelar', 'alto', 'koniec', 'parar']);

/** What is answered, once. */
export function consentAnswer({ kind, language }: ConsentWord): string {
  const words = LANGUAGES[language] ?? (LANGUAGES.en as Words);
  return kind === 'stop' ? words.stopped : words.started;
}

/** What networks of a country demand in the answer to HELP, beside who it is and how to leave. */
const HELP_DEMANDS: Record<string, string> = {
  CA: 'Message and data rates may apply.',
  US: 'Message and data rates may apply.',
};

/** What HELP is answered: who it is and where help is had, what the country demands, and how to leave. */
export function helpAnswer({ language }: Pick<ConsentWord, 'language'>, who: string, country?: string | null): string {
  const { leaving } = LANGUAGES[language] ?? (LANGUAGES.en as Words);
  const ended = /[.!?]$/.test(who) ? who : `${who}.`;
  const demand = country ? HELP_DEMANDS[country] : undefined;
  return [ended, demand, leaving].filter(Boolean).join(' ');
}

export const CONSENT_LANGUAGES = Object.keys(LANGUAGES);
