/** How long a disturbance lasts, and the pace of traffic. Nothing is waited for with it. */
export const lasting = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
