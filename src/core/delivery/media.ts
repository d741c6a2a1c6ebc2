/** A file that goes with a text, by its address. */
export interface Media {
  url: string;
  /** IANA media type. */
  type: string;
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
