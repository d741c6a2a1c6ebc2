import { isOperationError } from '../../../../../operations/context';

/** What would happen, or why it cannot. */
export async function previewOr<Shown extends object>(
  look: () => Promise<Shown>,
): Promise<Shown | { problem: string }> {
  try {
    return await look();
  } catch (error) {
    if (!isOperationError(error)) throw error;
    const finding = error.findings[0]?.finding;
    return { problem: finding ? `${finding.problem} ${finding.remedy}` : error.message };
  }
}
