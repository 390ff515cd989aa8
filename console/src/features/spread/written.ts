/** A unit price with two digits at least, and no idle zeros behind them. */
export const trimmed = (price: string) => price.replace(/(\.\d{2}\d*?)0+$/, "$1");
