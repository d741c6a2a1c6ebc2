/** The rows of a file and the cards of another, read in a thread of their own: what they cost harms nobody else. */
import { SheetError, type SheetFormat } from '../../connectors/sheets/sheetFile';
import { GivenUp, Refused } from '../../workers/apart';
import type { JobName, Jobs, PieceOf, ReaderName, Readers } from '../../workers/jobs';
import type { AppContext } from './appContext';

/** Rows of texts, the header first. Throws SheetError with the reason when the file is not what its name says, or costs too much. */
export function fileRows(
  { apart }: Pick<AppContext, 'apart'>,
  path: string,
  format: SheetFormat,
): AsyncGenerator<string[]> {
  return pieces(apart, 'rows', { path, format });
}

/** Each card of a vCard file, or what is wrong with it. */
export function fileCards({ apart }: Pick<AppContext, 'apart'>, path: string): AsyncGenerator<PieceOf<'cards'>> {
  return pieces(apart, 'cards', { path });
}

/** The first row; nothing after it is told. */
export async function fileHeader(ctx: Pick<AppContext, 'apart'>, path: string, format: SheetFormat): Promise<string[]> {
  for await (const row of fileRows(ctx, path, format)) return row;
  throw new SheetError('The sheet is empty: its first row is to hold the names of the columns.');
}

/** Changes a workbook by one of the jobs there are for it. Throws as reading it does. */
export async function changeWorkbook<Name extends Extract<JobName, 'appendToWorkbook' | 'markWorkbook'>>(
  { apart }: Pick<AppContext, 'apart'>,
  name: Name,
  input: Parameters<Jobs[Name]>[0],
): Promise<string | undefined> {
  try {
    return await apart.run(name, input);
  } catch (error) {
    throw asSheetError(error);
  }
}

async function* pieces<Name extends ReaderName>(
  apart: AppContext['apart'],
  name: Name,
  input: Parameters<Readers[Name]>[0],
): AsyncGenerator<PieceOf<Name>> {
  try {
    yield* apart.read(name, input);
  } catch (error) {
    throw asSheetError(error);
  }
}

function asSheetError(error: unknown): unknown {
  return error instanceof Refused || error instanceof GivenUp ? new SheetError(error.message) : error;
}
