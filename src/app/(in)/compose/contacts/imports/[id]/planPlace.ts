/** Where the plan stands on the page, so that what is imported is what is shown. */
export const PLAN = 'import-plan';
