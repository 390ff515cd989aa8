import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";

import { bridgesQuery } from "../../api/bridges";
import { companiesQuery } from "../../api/people";
import { type AmountOf, sheetQuery, type SheetOf } from "../../api/tieout";
import type { Company, TieOut as Sheet } from "../../api/types";
import { Choice } from "../../parts/Choice";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { MonthPanel } from "../closing/MonthPanel";
import { Completeness } from "../completeness/Completeness";
import { BehindList } from "./BehindList";
import { Accounts, TaxCodes, Tenders } from "./Breakdown";
import { PaidOut } from "./PaidOut";
import { Days } from "./Days";
import { Headline } from "./Headline";
import { dayOn, monthOf } from "./place";
import { Verdict } from "./Verdict";

const PERIOD = ["first", "last", "bridge", "company"] as const;
const AMOUNT = ["section", "currency", "tax_code", "tender", "connection", "account", "reason", "detail"] as const;

const chosen = <Name extends string>(query: URLSearchParams, names: readonly Name[]) =>
  Object.fromEntries(names.flatMap((name) => (query.get(name) ? [[name, query.get(name)]] : []))) as Partial<Record<Name, string>>;

/** Both sides of a month or a day, the difference by its reasons, and the documents behind every amount. */
export function TieOut() {
  useTitle("Tie-out");
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const period: SheetOf = chosen(query, PERIOD);
  const amount: AmountOf = chosen(query, AMOUNT);
  const found = useQuery(sheetQuery(slug, period));
  const bridges = useQuery(bridgesQuery(slug));
  const companies = useQuery(companiesQuery(slug)).data?.items ?? [];
  const show = (changed: SheetOf) => setQuery(Object.fromEntries(Object.entries({ ...period, ...changed }).filter(([, value]) => value)));
  return (
    <>
      <PageHead title="Tie-out">
        {companies.length > 1 ? (
          <span className="min-w-0 max-md:w-full print:hidden">
            <Choice
              name="Company"
              value={period.company ?? ""}
              options={companies.map((one) => ({ value: one.slug, name: one.name }))}
              change={(company) => show({ company, bridge: "" })}
            />
          </span>
        ) : null}
        {bridges.data && bridges.data.items.length > 1 ? (
          <span className="min-w-0 max-md:w-full print:hidden">
            <Choice
              name="Bridge"
              value={period.bridge ?? ""}
              options={bridges.data.items.map((one) => ({ value: one.slug, name: one.name }))}
              change={(bridge) => show({ bridge, company: "" })}
            />
          </span>
        ) : null}
      </PageHead>
      {found.isPending ? <Loading what="the sheet" lines={12} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data ? (
        <>
          <Turning sheet={found.data} show={show} />
          <TheSheet sheet={found.data} period={{ ...period, first: found.data.first, last: found.data.last }} amount={amount} companies={companies} show={show} />
        </>
      ) : null}
    </>
  );
}

/** Only a whole month is closed. */
function isWholeMonth(sheet: Sheet): boolean {
  const month = monthOf(sheet.first);
  return sheet.first === month.first && sheet.last === month.last;
}

interface Turn {
  sheet: Sheet;
  show: (period: SheetOf) => void;
}

/** The period that is shown, and the ones before and after it. */
function Turning({ sheet, show }: Turn) {
  const month = monthOf(sheet.first);
  const isDay = sheet.first === sheet.last;
  const turn = (on: number) => (isDay ? dayOn(sheet.first, on) : monthOf(sheet.first, on));
  return (
    <div className="mb-4 flex flex-wrap items-center gap-2 print:hidden">
      <button type="button" className="button-quiet" onClick={() => show(turn(-1))}>
        <span aria-hidden="true">‹</span> {isDay ? "Day before" : "Month before"}
      </button>
      <button type="button" className="button-quiet" onClick={() => show(turn(1))}>
        {isDay ? "Day after" : "Month after"} <span aria-hidden="true">›</span>
      </button>
      {isWholeMonth(sheet) ? null : (
        <button type="button" className="button-quiet" onClick={() => show(month)}>
          The whole month
        </button>
      )}
      <form
        key={sheet.first + sheet.last}
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          const said = new FormData(event.currentTarget);
          show({ first: String(said.get("first")), last: String(said.get("last")) });
        }}
      >
        <label className="flex items-baseline gap-2">
          <span className="text-faded">From</span>
          <input className="field" type="date" name="first" required defaultValue={sheet.first} />
        </label>
        <label className="flex items-baseline gap-2">
          <span className="text-faded">to</span>
          <input className="field" type="date" name="last" required defaultValue={sheet.last} />
        </label>
        <button type="submit" className="button-quiet">
          Show
        </button>
      </form>
    </div>
  );
}

interface Shown extends Turn {
  period: SheetOf & { first: string };
  amount: AmountOf;
  companies: Company[];
}

function TheSheet({ sheet, period, amount, companies, show }: Shown) {
  const isDay = sheet.first === sheet.last;
  if (!sheet.rows.length && !sheet.tenders.length) {
    return (
      <div className="space-y-5">
        <Empty title="Nothing on either side">
          From {day(sheet.first)} to {day(sheet.last)} nothing was sold, given back or posted, as far as was read. Run the bridge, or choose other days.
        </Empty>
        <Completeness period={{ ...period, last: sheet.last }} />
      </div>
    );
  }
  return (
    <div className="space-y-5">
      <section aria-label="The sheet" className="sheet">
        <p className="mb-2 text-sm text-faded">
          {isDay ? day(sheet.first) : `${day(sheet.first)} to ${day(sheet.last)}`}; each side by its own days, the books as they were read last
        </p>
        <Verdict ties={sheet.ties} differing={sheet.differing} rows={sheet.rows} besides={[...sheet.tax_codes, ...sheet.accounts, ...sheet.tenders]} />
        {sheet.rows.map((row) => (
          <Headline key={row.section + row.currency} row={row} period={period} />
        ))}
      </section>
      {Object.keys(amount).length ? <BehindList period={period} amount={amount} close={() => show({})} /> : null}
      {companies.length && !period.bridge && isWholeMonth(sheet) ? <MonthPanel companies={companies} period={period} /> : null}
      <Completeness period={{ ...period, last: sheet.last }} />
      {isDay ? null : <Days period={period} currencies={[...new Set(sheet.rows.map((row) => row.currency))]} />}
      <div className="grid items-start gap-5 *:min-w-0 2xl:grid-cols-2">
        <TaxCodes rows={sheet.tax_codes} period={period} />
        <Tenders rows={sheet.tenders} period={period} />
        <Accounts rows={sheet.accounts} period={period} />
        <PaidOut period={{ ...period, last: sheet.last }} />
      </div>
    </div>
  );
}
