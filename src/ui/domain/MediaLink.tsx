import { Paperclip } from 'lucide-react';
import { fileName, type Media, type MessageFile, sizeOf } from '../../core/delivery/media';

/** A file by its address. It is fetched when somebody opens it, and not by showing it. */
export function MediaLink({ media }: { media: Media }) {
  const safe = /^https?:/.test(media.url);
  const name = fileName(media);
  return (
    <p className="flex items-center gap-1.5 text-[13px]">
      <Paperclip size={14} aria-hidden className="shrink-0 text-soft" />
      {safe ? (
        <a href={media.url} target="_blank" rel="noopener noreferrer nofollow" className="break-all">
          {name}
        </a>
      ) : (
        <span className="break-all">{name}</span>
      )}
      <span className="text-soft">{media.type}</span>
    </p>
  );
}

/** Files that came with a message; one that was not kept says why. */
export function FileLinks({ files }: { files: readonly MessageFile[] }) {
  return (
    <ul data-files>
      {files.map(({ name, type, bytes, url, awaited, refused }, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: they never change their order
        <li key={index} className="flex flex-wrap items-center gap-x-1.5 text-[13px]">
          <Paperclip size={14} aria-hidden className="shrink-0 text-soft" />
          {url ? (
            <a href={url} target="_blank" rel="noopener noreferrer nofollow" className="break-all">
              {name}
            </a>
          ) : (
            <span className="break-all">{name}</span>
          )}
          <span className="text-soft">
            {type || 'unknown type'}
            {awaited ? ', being fetched' : bytes > 0 && `, ${sizeOf(bytes)}`}
          </span>
          {refused && <span className="text-ochre-ink">▲ {refused}</span>}
        </li>
      ))}
    </ul>
  );
}
