/** What an administrator sets of a web chat, and what of it a visitor's browser is told. */
import { z } from 'zod';

/** Scheme and host of a page, as browsers send it in the Origin header (RFC 6454 §6.2). */
const origin = z
  .string()
  .trim()
  .regex(/^https?:\/\/[a-z0-9.-]+(:\d{2,5})?$/i, 'An origin is https:// and a host, without a path')
  .transform((text) => text.toLowerCase());

/** Pictures come along as data, so that the chat fetches nothing from elsewhere. */
const picture = z
  .string()
  .max(60_000, 'The picture is over 40 KB')
  .regex(/^data:image\/(png|jpeg|webp|gif);base64,[A-Za-z0-9+/=]+$/, 'A picture is PNG, JPEG, WebP or GIF');

export const webChatSettings = z
  .strictObject({
    origins: z.array(origin).min(1, 'At least one website is needed').max(20),
    title: z.string().trim().min(1, 'The title is empty').max(60),
    greeting: z.string().trim().min(1, 'The greeting is empty').max(300),
    returningGreeting: z.string().trim().max(300).default(''),
    colour: z.string().regex(/^#[0-9a-f]{6}$/i, 'A colour is # and six hexadecimal digits'),
    picture: picture.or(z.literal('')).default(''),
    askName: z.boolean().default(true),
    askPhone: z.boolean().default(false),
    consentText: z.string().trim().max(1000).default(''),
    acknowledgement: z.string().trim().min(1, 'The acknowledgement is empty').max(300),
    answers: z.enum(['live', 'later']),
    /** The text channel that answers visitors who were told to expect a text. */
    replyChannelId: z.string().default(''),
  })
  .refine((settings) => settings.answers === 'live' || settings.replyChannelId !== '', {
    path: ['replyChannelId'],
    message: 'Answering later needs a text channel',
  })
  .refine((settings) => settings.answers === 'live' || settings.askPhone, {
    path: ['askPhone'],
    message: 'Answering later needs the visitor’s phone number',
  });

export type WebChatSettings = z.infer<typeof webChatSettings>;

export const WEB_CHAT_START: Omit<WebChatSettings, 'origins'> = {
  title: 'Ask us',
  greeting: 'How can we help?',
  returningGreeting: 'Good to see you again. How can we help?',
  colour: '#2d4961',
  picture: '',
  askName: true,
  askPhone: false,
  consentText: 'I agree that my words are kept to answer me.',
  acknowledgement: 'Thank you. Somebody will answer here shortly.',
  answers: 'live',
  replyChannelId: '',
};

/** The channel over which those who write on this one were told to expect the answer; undefined where it is answered itself. */
export function promisedChannel(settings: Record<string, unknown>): string | undefined {
  const { answers, replyChannelId } = settings;
  return answers === 'later' && typeof replyChannelId === 'string' && replyChannelId !== ''
    ? replyChannelId
    : undefined;
}

/** What a browser on an allowed website is told. */
export interface ChatFace {
  title: string;
  greeting: string;
  returningGreeting: string;
  colour: string;
  ink: string;
  picture: string;
  askName: boolean;
  askPhone: boolean;
  consentText: string;
  acknowledgement: string;
  answers: 'live' | 'later';
}

export interface ChatMessage {
  id: string;
  from: 'visitor' | 'us';
  who: string;
  text: string;
  at: number;
}

/** White or near-black, whichever reads better on the colour (WCAG 2.2, relative luminance). */
export function inkOn(colour: string): '#ffffff' | '#101418' {
  const channel = (at: number) => {
    const value = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
  };
  const luminance = 0.2126 * channel(1) + 0.7152 * channel(3) + 0.0722 * channel(5);
  return 1.05 / (luminance + 0.05) >= 4.5 ? '#ffffff' : '#101418';
}
