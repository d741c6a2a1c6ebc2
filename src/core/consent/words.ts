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
  /** The page behind a link by which one leaves mail. */
  page: LeavingWords;
}

export interface LeavingWords {
  ask: string;
  press: string;
  done: string;
}

const LANGUAGES: Record<string, Words> = {
  en: {
    stop: ['stop', 'stopall', 'stop all', 'unsubscribe', 'cancel', 'end', 'quit', 'opt out', 'optout'],
    start: ['start', 'unstop', 'subscribe', 'opt in', 'optin'],
    help: ['help', 'info'],
    leaving: 'Reply STOP to get no more messages.',
    stopped: 'You will get no more messages from us. Reply START to get them again.',
    started: 'You will get messages from us again. Reply STOP to get no more.',
    page: { ask: 'Get no more mail from us?', press: 'Get no more', done: 'You will get no more mail from us.' },
  },
  sv: {
    stop: ['stopp', 'sluta', 'avsluta', 'avregistrera', 'avanmäl'],
    start: ['starta', 'börja'],
    help: ['hjälp', 'hjalp'],
    leaving: 'Svara STOPP för att inte få fler meddelanden.',
    stopped: 'Du får inga fler meddelanden från oss. Svara START för att få dem igen.',
    started: 'Du får meddelanden från oss igen. Svara STOPP för att slippa dem.',
    page: {
      ask: 'Vill du inte få mer e-post från oss?',
      press: 'Få inga fler',
      done: 'Du får ingen mer e-post från oss.',
    },
  },
  fr: {
    stop: ['arrêt', 'arret', 'arrêter', 'désabonner', 'desabonner', 'désinscription'],
    start: ['reprendre', 'réabonner', 'reabonner'],
    help: ['aide'],
    leaving: 'Répondez STOP pour ne plus recevoir de messages.',
    stopped: 'Vous ne recevrez plus de messages de notre part. Répondez START pour en recevoir à nouveau.',
    started: 'Vous recevrez à nouveau nos messages. Répondez STOP pour ne plus en recevoir.',
    page: {
      ask: 'Ne plus recevoir de courriels de notre part ?',
      press: 'Ne plus en recevoir',
      done: 'Vous ne recevrez plus de courriels de notre part.',
    },
  },
  de: {
    stop: ['stopp', 'abmelden', 'abbestellen', 'ende', 'austragen'],
    start: ['anmelden', 'wieder anmelden'],
    help: ['hilfe'],
    leaving: 'Antworten Sie STOPP, um keine Nachrichten mehr zu erhalten.',
    stopped: 'Sie erhalten keine Nachrichten mehr von uns. Antworten Sie START, um sie wieder zu erhalten.',
    started: 'Sie erhalten wieder Nachrichten von uns. Antworten Sie STOPP, um keine mehr zu erhalten.',
    page: {
      ask: 'Keine E-Mails mehr von uns erhalten?',
      press: 'Keine mehr erhalten',
      done: 'Sie erhalten keine E-Mails mehr von uns.',
    },
  },
  nl: {
    stop: ['afmelden', 'stoppen', 'uitschrijven'],
    start: ['aanmelden', 'hervatten'],
    help: ['hulp'],
    leaving: 'Antwoord STOP om geen berichten meer te krijgen.',
    stopped: 'U krijgt geen berichten meer van ons. Antwoord START om ze weer te krijgen.',
    started: 'U krijgt weer berichten van ons. Antwoord STOP om ze niet meer te krijgen.',
    page: {
      ask: 'Geen e-mail meer van ons ontvangen?',
      press: 'Niet meer ontvangen',
      done: 'U krijgt geen e-mail meer van ons.',
    },
  },
  es: {
    stop: ['baja', 'alto', 'parar', 'cancelar', 'detener'],
    start: ['alta', 'iniciar', 'reanudar'],
    help: ['ayuda', 'información', 'informacion'],
    leaving: 'Responda STOP para no recibir más mensajes.',
    stopped: 'No recibirá más mensajes nuestros. Responda START para volver a recibirlos.',
    started: 'Volverá a recibir nuestros mensajes. Responda STOP para no recibir más.',
    page: {
      ask: '¿No recibir más correos nuestros?',
      press: 'No recibir más',
      done: 'No recibirá más correos nuestros.',
    },
  },
  pl: {
    stop: ['wypisz', 'rezygnuję', 'rezygnuje', 'koniec'],
    start: ['zapisz', 'wznów', 'wznow'],
    help: ['pomoc'],
    leaving: 'Odpowiedz STOP, aby nie otrzymywać wiadomości.',
    stopped: 'Nie będziesz już otrzymywać od nas wiadomości. Odpowiedz START, aby je znów otrzymywać.',
    started: 'Znów będziesz otrzymywać nasze wiadomości. Odpowiedz STOP, aby ich nie otrzymywać.',
    page: {
      ask: 'Nie otrzymywać już od nas poczty?',
      press: 'Nie otrzymywać',
      done: 'Nie będziesz już otrzymywać od nas poczty.',
    },
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

/** What the page behind a leaving link says, and in which language. */
export function leavingWords(language: string | undefined): LeavingWords & { language: string } {
  const own = language?.toLowerCase().split('-')[0] ?? '';
  const name = Object.hasOwn(LANGUAGES, own) ? own : 'en';
  return { ...(LANGUAGES[name] as Words).page, language: name };
}

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
