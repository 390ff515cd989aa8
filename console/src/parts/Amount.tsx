/** An amount as people read it; labels say it just so. */
export const amountText = (value: string) => {
  const [whole = "0", fraction] = value.replace("-", "").split(".");
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, ",");
  return `${value.startsWith("-") ? "−" : ""}${grouped}${fraction ? `.${fraction}` : ""}`;
};

/** An exact amount as text: never a binary number, always with its digits. */
export function Amount({ value, currency }: { value: string | null | undefined; currency?: string }) {
  if (value === null || value === undefined) return <span className="text-faded">–</span>;
  return (
    <span className="amount">
      {amountText(value)}
      {currency ? <span className="text-xs text-faded"> {currency}</span> : null}
    </span>
  );
}

export const isZero = (value: string | null | undefined) => !value || /^-?0*(\.0*)?$/.test(value);
