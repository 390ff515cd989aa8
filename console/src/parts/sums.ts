/** Sums of amounts that are text, in whole minor units: no binary number ever stands for money. */
export function summed(amounts: readonly string[]): string {
  const digits = Math.max(0, ...amounts.map((one) => (one.split(".")[1] ?? "").length));
  const total = amounts.reduce((sum, one) => sum + minor(one, digits), 0n);
  if (digits === 0) return total.toString();
  const text = (total < 0n ? -total : total).toString().padStart(digits + 1, "0");
  return `${total < 0n ? "-" : ""}${text.slice(0, -digits)}.${text.slice(-digits)}`;
}

/** The same amount with the other sign. */
export const negated = (amount: string) => (amount.startsWith("-") ? amount.slice(1) : `-${amount}`);

function minor(amount: string, digits: number): bigint {
  const [whole = "0", fraction = ""] = amount.replace("-", "").split(".");
  const found = BigInt(whole + fraction.padEnd(digits, "0"));
  return amount.startsWith("-") ? -found : found;
}
