/** Where the mail account of the installation is kept among the settings. */
export const MAIL_SETTING = 'mail-account';
