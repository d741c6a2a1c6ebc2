/** What is worked through apart: each takes plain data and answers plain data, at once or piece by piece. */
import { parse } from 'csv-parse/sync';
import { draftProfile } from '../connectors/openapi/draft';
import { readRows, type SheetFormat } from '../connectors/sheets/sheetFile';
import { readCards } from '../connectors/sheets/vcards';
import { appendToWorkbook, markWorkbook } from '../connectors/sheets/workbook';
import { type FeedReading, type FeedSpan, readFeed } from '../core/schedule/feed';
import { delimiterOf } from '../core/sheets/rows';

export const JOBS = {
  /** A table that somebody pasted, as CSV (RFC 4180) with whatever delimiter it has. */
  table: ({ text }: { text: string }): string[][] =>
    parse(text, { bom: true, delimiter: delimiterOf(text), relax_column_count: true, relax_quotes: true, trim: true }),
  feed: ({ text, span }: { text: string; span: FeedSpan }): FeedReading => readFeed(text, span),
  appendToWorkbook,
  markWorkbook,
  draftProfile,
};

export type Jobs = typeof JOBS;
export type JobName = keyof Jobs;

/** Those whose answer is as long as what they read. */
export const READERS = {
  rows: ({ path, format }: { path: string; format: SheetFormat }): AsyncGenerator<string[]> => readRows(path, format),
  cards: ({ path }: { path: string }) => readCards(path),
};

export type Readers = typeof READERS;
export type ReaderName = keyof Readers;
/** What one piece of a reader's answer is. */
export type PieceOf<Name extends ReaderName> =
  ReturnType<Readers[Name]> extends AsyncGenerator<infer Piece> ? Piece : never;

/** What the thread is told first. */
export type Task = { kind: 'job'; name: JobName; input: never } | { kind: 'reader'; name: ReaderName; input: never };

/** What it says: that it is ready, what it answers, some of it, that this was all, or what is wrong with the input. */
export type Said =
  | { kind: 'ready' }
  | { kind: 'answer'; answer: unknown }
  | { kind: 'pieces'; pieces: unknown[] }
  | { kind: 'end' }
  | { kind: 'refused'; reason: string };
