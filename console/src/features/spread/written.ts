/** A word as it stands at the head of something. */
export const capitalised = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** A unit price with two digits at least, and no idle zeros behind them. */
export const trimmed = (price: string) => price.replace(/(\.\d{2}\d*?)0+$/, "$1");
