/** Where the mail account of the house is kept among the settings. */
export const MAIL_SETTING = 'mail-account';
