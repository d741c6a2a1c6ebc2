/** A file that goes with a text, by its address. */
export interface Media {
  url: string;
  /** IANA media type. */
  type: string;
}

/** The largest file that is kept, bytes: more than any platform carries. */
export const LARGEST_FILE = 20_000_000;

/** A file that came with a message, kept here. */
export interface MessageFile {
  name: string;
  /** As its content shows; empty where that tells nothing. */
  type: string;
  bytes: number;
  /** Where it is kept and can be fetched; absent where it was not kept. */
  id?: string;
  url?: string;
  /** It is being fetched from where the provider has it. */
  awaited?: boolean;
  /** Why it was not kept, as a sentence. */
  refused?: string;
}

/** "12 kB": the size of a file as people read it. */
export function sizeOf(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  return bytes < 1e6 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** The file's name, as its address tells it. */
export function fileName({ url }: Media): string {
  const last = url.split(/[?#]/)[0]?.split('/').at(-1);
  try {
    return decodeURIComponent(last ?? '') || url;
  } catch {
    return last || url;
  }
}

/** A message in one line of a list: its words, or the file that says it all. */
export function inOneLine({ text, media }: { text: string; media: Media | null }): string {
  return text || (media ? fileName(media) : '');
}
