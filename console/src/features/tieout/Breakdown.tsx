import { Fragment } from "react";
import { Link } from "react-router";

import type { AmountOf, SheetOf } from "../../api/tieout";
import type { AccountRow, SheetRow } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { useWorkspace } from "../../parts/useWorkspace";
import { behind, reasonInWords } from "./place";

/** The lines of each tax code, as the rules code the sales side's amounts and as the books hold them. */
export function TaxCodes({ rows, period }: { rows: SheetRow[]; period: SheetOf }) {
  return (
    <Sides
      title="By tax code"
      caption="By the rules’ tax codes, of what was planned; what came back is taken off"
      heads={["Tax code", "Sales side net", "Sales side tax", "Books net", "Books tax", "Sales side", "The books", "Difference"]}
      narrow={[5, 6]}
      period={period}
      rows={rows.map((row) => ({
        row,
        name: row.tax_code,
        amount: { currency: row.currency, tax_code: row.tax_code },
        values: [row.source.net, row.source.tax, row.books.net, row.books.tax, row.source.gross, row.books.gross],
      }))}
    />
  );
}

/** The money of each tender. */
export function Tenders({ rows, period }: { rows: SheetRow[]; period: SheetOf }) {
  return (
    <Sides
      title="By tender"
      caption="Money that came in; what went back is taken off"
      heads={["Tender", "Sales side", "The books", "Difference"]}
      period={period}
      rows={rows.map((row) => ({
        row,
        name: row.tender,
        amount: { section: "money", currency: row.currency, tender: row.tender },
        values: [row.source.gross, row.books.gross],
      }))}
    />
  );
}

/** What stands on each account of the books: net of sales and refunds, and money. */
export function Accounts({ rows, period }: { rows: AccountRow[]; period: SheetOf }) {
  return (
    <Sides
      title="By account"
      caption="Net of sales and refunds as the rules put it on accounts of the books, and money; taxes stand on the accounts of their codes"
      heads={["Account", "Sales side", "The books", "Difference"]}
      period={period}
      rows={rows.map((row) => ({
        row,
        name: row.account,
        key: row.connection + row.section,
        about: [row.name, row.used_for.join(", ")].filter(Boolean).join(": "),
        amount: { section: row.section, currency: row.currency, connection: row.connection, account: row.account },
        values: [row.source.net, row.books.net],
      }))}
    />
  );
}

interface SidesRow {
  row: SheetRow;
  name: string;
  /** What tells it from another row of the same name. */
  key?: string;
  about?: string;
  amount: AmountOf;
  values: string[];
}

interface SidesProps {
  title: string;
  caption: string;
  heads: string[];
  period: SheetOf;
  rows: SidesRow[];
  /** The columns that stand in place of the other amounts where there is no room for those. */
  narrow?: number[];
}

/** Both sides of each row, the difference, and its reasons beneath; each leads to the documents behind it. */
function Sides({ title, caption, heads, period, rows, narrow = [] }: SidesProps) {
  const shownWhere = (column: number) => {
    if (!narrow.length || column === 0 || column === heads.length - 1) return "";
    return narrow.includes(column) ? "md:hidden" : "max-md:hidden";
  };
  const { slug } = useWorkspace();
  if (!rows.length) return null;
  return (
    <section aria-label={title} className="sheet">
      <h2 className="text-lg font-semibold">{title}</h2>
      <div className="overflow-x-auto">
        <table className="w-full">
          <caption className="text-left text-sm text-faded">{caption}</caption>
          <thead>
            <tr className="border-b border-ink/60">
              {heads.map((name, place) => (
                <th key={name} scope="col" className={`${place ? "pl-3 text-right" : ""} ${shownWhere(place)}`}>
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ row, name, key = "", about, amount, values }) => (
              <Fragment key={row.currency + key + name}>
                <tr className="align-baseline">
                  <th scope="row" className="py-1 text-base font-medium text-ink">
                    <Link className="link" to={behind(slug, period, amount)}>
                      {name}
                    </Link>{" "}
                    <span className="text-sm font-normal text-faded">
                      {about ? <span className="max-md:hidden">{about}, </span> : null}
                      {row.currency}
                    </span>
                  </th>
                  {values.map((value, place) => (
                    <td key={place} className={`amount pl-3 ${shownWhere(place + 1)}`}>
                      <Amount value={value} />
                    </td>
                  ))}
                  <td className={`amount pl-3 ${row.ties ? "" : "text-madder"}`}>
                    <Amount value={row.difference.gross} />
                  </td>
                </tr>
                <tr className="border-b border-line">
                  <td colSpan={heads.length} className="pb-1 text-right text-xs">
                    {about ? <span className="block text-left text-sm text-faded md:hidden">{about}</span> : null}
                    {row.parts.map((part) => (
                      <span key={part.reason + part.detail} className={`block ${part.settled ? "text-faded" : "text-madder"}`}>
                        <Link className="underline decoration-line underline-offset-2" to={behind(slug, period, { ...amount, reason: part.reason, detail: part.detail })}>
                          {reasonInWords(part.reason, part.detail)}
                        </Link>{" "}
                        <Amount value={part.gross} />
                      </span>
                    ))}
                  </td>
                </tr>
              </Fragment>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
