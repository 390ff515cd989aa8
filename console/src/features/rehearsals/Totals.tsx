import type { Rehearsal } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Empty } from "../../parts/Empty";
import { Bars, reach } from "./Bars";

type Total = Rehearsal["totals"][number];

/** What every account, code and value of a dimension comes to, before and after. */
export function Totals({ rehearsal }: { rehearsal: Rehearsal }) {
  const groups = [...new Set(rehearsal.totals.map((one) => one.of))];
  if (!groups.length) return <Empty title="No totals">Nothing of this period is carried under either version.</Empty>;
  return (
    <>
      {groups.map((of) => (
        <Group key={of} of={of} totals={rehearsal.totals.filter((one) => one.of === of)} />
      ))}
    </>
  );
}

function Group({ of, totals }: { of: string; totals: Total[] }) {
  const taxed = totals.some((one) => !isZero(one.tax_before) || !isZero(one.tax_after));
  const currencies = [...new Set(totals.map((one) => one.currency))];
  const scales = new Map(currencies.map((currency) => [currency, reach(totals.filter((one) => one.currency === currency))]));
  return (
    <section aria-label={`By ${of}`} className="sheet overflow-x-auto">
      <table className="w-full">
        <caption className="mb-2 text-left font-serif text-lg font-semibold">By {of}</caption>
        <thead>
          <tr className="border-b border-line *:py-1 *:pr-3">
            <th scope="col">Code</th>
            <th scope="col" className="text-right">
              Before
            </th>
            <th scope="col" className="text-right">
              After
            </th>
            <th scope="col">Before over after</th>
            <th scope="col" className="text-right">
              Difference
            </th>
            {taxed ? (
              <th scope="col" className="text-right">
                Difference in tax
              </th>
            ) : null}
          </tr>
        </thead>
        <tbody>
          {totals.map((one) => (
            <tr key={one.code + one.currency} className="border-b border-line *:py-1 *:pr-3">
              <th scope="row" className="text-[15px] text-ink">
                {one.code}
              </th>
              <td className="amount">
                <Amount value={one.before} currency={one.currency} />
              </td>
              <td className="amount">
                <Amount value={one.after} currency={one.currency} />
              </td>
              <td>
                <Bars pair={one} scale={scales.get(one.currency) ?? reach([one])} />
              </td>
              <td className="amount">
                <Difference value={less(one.after, one.before)} />
              </td>
              {taxed ? (
                <td className="amount">
                  <Difference value={less(one.tax_after, one.tax_before)} />
                </td>
              ) : null}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Difference({ value }: { value: string }) {
  if (isZero(value)) return <span className="text-faded">–</span>;
  return (
    <strong className={value.startsWith("-") ? "text-madder" : "text-moss"}>
      {value.startsWith("-") ? "" : "+"}
      <Amount value={value} />
    </strong>
  );
}

/** One exact amount less another: as whole numbers of their smallest digit, never as binary fractions. */
export function less(one: string, other: string): string {
  const digits = Math.max(fraction(one).length, fraction(other).length);
  const units = whole(one, digits) - whole(other, digits);
  const text = (units < 0n ? -units : units).toString().padStart(digits + 1, "0");
  const said = digits ? `${text.slice(0, -digits)}.${text.slice(-digits)}` : text;
  return units < 0n ? `-${said}` : said;
}

const fraction = (amount: string) => amount.split(".")[1] ?? "";
const whole = (amount: string, digits: number) =>
  BigInt((amount.split(".")[0] ?? "0") + fraction(amount).padEnd(digits, "0"));
