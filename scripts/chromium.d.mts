export const HEADLESS_SHELL: string;
export const CHROMIUM_PATH: string;
export const CHROMIUM_FLAGS: string[];
