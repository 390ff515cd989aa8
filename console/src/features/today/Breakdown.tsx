import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";

import { tieOutQuery } from "../../api/today";
import type { TaxCodeTotals, TenderTotals, Today } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** The same period by tax code and by tender, asked for when somebody wants to see it. */
export function Breakdown({ period }: { period: Today["tie_out"] }) {
  return (
    <Disclosure as="div" className="mt-4 border-t border-line pt-3">
      <DisclosureButton className="link">By tax code and tender</DisclosureButton>
      <DisclosurePanel>
        <Tables first={period.first} last={period.last} />
      </DisclosurePanel>
    </Disclosure>
  );
}

function Tables({ first, last }: { first: string; last: string }) {
  const { slug } = useWorkspace();
  const found = useQuery(tieOutQuery(slug, first, last));
  if (found.isPending) return <Loading what="tax codes and tenders" lines={5} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const { tax_codes: codes, tenders } = found.data;
  if (!codes.length && !tenders.length) return <p className="mt-2 text-faded">Nothing was carried yet.</p>;
  return (
    <div className="mt-3 space-y-5 overflow-x-auto">
      <TaxCodes rows={codes} />
      <Tenders rows={tenders} />
    </div>
  );
}

function TaxCodes({ rows }: { rows: TaxCodeTotals[] }) {
  return (
    <Sides
      caption="By the rules’ tax codes; what came back is taken off"
      heads={["Tax code", "Shop net", "Shop tax", "Books net", "Books tax", "Rounding", "Unexplained"]}
      rows={rows.map((row) => ({
        name: row.tax_code,
        currency: row.currency,
        values: [row.source.net, row.source.tax, row.books.net, row.books.tax, row.rounding.gross],
        difference: row.unexplained.gross,
      }))}
    />
  );
}

function Tenders({ rows }: { rows: TenderTotals[] }) {
  return (
    <Sides
      caption="Money by tender; the third column is what never arrives as money, or is left for later"
      heads={["Tender", "Shop", "Not as money", "Books", "Difference"]}
      rows={rows.map((row) => ({
        name: row.tender,
        currency: row.currency,
        values: [row.source, row.aside, row.books],
        difference: row.difference,
      }))}
    />
  );
}

interface SidesRow {
  name: string;
  currency: string;
  values: (string | null)[];
  difference: string | null;
}

/** A table of both sides: a name, amounts of each side, and what is left between them. */
function Sides({ caption, heads, rows }: { caption: string; heads: string[]; rows: SidesRow[] }) {
  return (
    <table className="w-full">
      <caption className="text-left text-sm text-faded">{caption}</caption>
      <thead>
        <tr className="border-b border-ink/60">
          {heads.map((name, place) => (
            <th key={name} scope="col" className={place ? "text-right pl-3" : undefined}>
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.currency + row.name} className="border-b border-line">
            <th scope="row" className="py-1 text-base font-medium">
              {row.name} <span className="text-sm font-normal text-faded">{row.currency}</span>
            </th>
            {row.values.map((value, place) => (
              <td key={place} className="amount pl-3">
                <Amount value={value} />
              </td>
            ))}
            <Difference value={row.difference} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What is left between the sides once everything that has a name is taken off. */
function Difference({ value }: { value: string | null }) {
  return (
    <td className={`amount pl-3 ${isZero(value) ? "" : "text-ochre"}`}>
      <Amount value={value} />
    </td>
  );
}
