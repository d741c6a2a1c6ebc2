/** Spreadsheets that are read row by row, and rows that are written. Others come in here. */
export { appendMessages, appendRow, cellsOf } from './appendRows';
export {
  appendToSheet,
  changeSheet,
  decideHeldRows,
  holdJumps,
  listSheets,
  type SheetRowView,
  type SheetView,
  sheetFiles,
  switchSheet,
  watchSheet,
} from './sheets';
export { createSheetWatch } from './watchSheets';
