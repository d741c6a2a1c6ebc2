/** Small workbooks as ExcelJS writes them, to be cut and doubled. */
import ExcelJS from 'exceljs';

export async function workbookSamples(): Promise<Buffer[]> {
  const book = new ExcelJS.Workbook();
  const sheet = book.addWorksheet('Rows');
  sheet.addRow(['phone', 'name', 'when', 'n']);
  sheet.addRow(['+447700900123', 'Ines Carrow', new Date(Date.UTC(2026, 4, 4)), 12.5]);
  sheet.addRow([
    { formula: '1+1', result: 2 },
    { richText: [{ text: 'rich' }] },
    { text: 'x', hyperlink: 'https://mossgate.example' },
    null,
  ]);
  book.addWorksheet('Other').addRow(['a']);
  return [Buffer.from((await book.xlsx.writeBuffer()) as ArrayBuffer)];
}
