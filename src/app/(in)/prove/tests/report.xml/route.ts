import { reportFile } from '../report';

export function GET(): Promise<Response> {
  return reportFile('latest', 'xml');
}
