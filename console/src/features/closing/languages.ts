/** The languages that reports are written in. */
export const LANGUAGES = [
  ["en", "English"],
  ["de", "German"],
  ["fr", "French"],
] as const;
