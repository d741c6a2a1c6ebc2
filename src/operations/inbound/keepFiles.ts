/** Files that came along with messages: judged by what they hold, kept here, and handed on at our own address. */
import { randomBytes } from 'node:crypto';
import { fileTypeFromBuffer } from 'file-type';
import type { MessageFile } from '../../core/delivery/media';
import type { Unit } from '../../store/store';

/** What runs on a computer that opens it, by its name or by what it holds: nobody here opens it by mistake. */
const PROGRAMS = {
  names: /\.(exe|com|scr|pif|bat|cmd|msi|dll|jar|js|jse|vbs|vbe|wsf|hta|lnk|ps1|cpl|apk|iso|img)$/i,
  types: new Set([
    'application/x-msdownload',
    'application/x-elf',
    'application/x-mach-binary',
    'application/x-msi',
    'application/java-vm',
    'application/vnd.android.package-archive',
  ]),
};

/** Keeps files and returns them as they stand with their message; one that is not kept says why, so that it is missed. */
export async function keepFiles(
  unit: Unit,
  files: readonly { name: string; content: Buffer }[],
  { at, publicUrl }: { at: number; publicUrl: string },
): Promise<MessageFile[]> {
  const kept: MessageFile[] = [];
  for (const { name, content } of files) {
    const { refused, ...judged } = await judgeFile(name, content);
    const file = { name, ...judged };
    if (refused) {
      kept.push({ ...file, refused });
      continue;
    }
    // Whoever knows its id may fetch it, so nobody may guess it from another’s.
    const id = `fil_${randomBytes(20).toString('hex')}`;
    await unit.mediaFiles.insert([{ id, ...file, content, created_at: at }]);
    kept.push({ ...file, id, url: `${publicUrl}/media/${id}` });
  }
  return kept;
}

/** What a file is, as its content shows, whatever was said of it, and why it is not kept where it is not. */
export async function judgeFile(
  name: string,
  content: Buffer,
): Promise<{ type: string; bytes: number; refused?: string }> {
  const type = (await fileTypeFromBuffer(content))?.mime ?? '';
  const file = { name, type, bytes: content.length };
  const refused = refusalOf(file);
  return { type, bytes: file.bytes, ...(refused ? { refused } : {}) };
}

function refusalOf({ name, type, bytes }: Pick<MessageFile, 'name' | 'type' | 'bytes'>): string | undefined {
  if (bytes === 0) return 'It is empty.';
  return PROGRAMS.names.test(name) || PROGRAMS.types.has(type) ? 'It is a program, and was not kept.' : undefined;
}
