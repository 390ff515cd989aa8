import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import { Link } from "react-router";

import { bankLinesQuery, markLines, matchLines, unmatchedQuery } from "../../api/bank";
import type { Awaited, BankAccount, BankLine, MatchProposal } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day, due, KINDS } from "../../parts/words";
import { negated, summed } from "../../parts/sums";
import { PaidAlready } from "./PaidAlready";

/** What is open on either side: lines that nobody knows on the left; on the right payouts that have not arrived, and
 * orders, refunds and invoices whose money the bank tells of. */
export function Unmatched({ account }: { account: BankAccount }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [cursor, setCursor] = useState("");
  const [lines, setLines] = useState<number[]>([]);
  const [crossings, setCrossings] = useState<number[]>([]);
  const [paid, setPaid] = useState<Awaited[]>([]);
  const [note, setNote] = useState("");
  const open = useQuery(bankLinesQuery(slug, account.slug, "open", cursor));
  const awaited = useQuery(unmatchedQuery(slug, account.slug));
  const done = () => {
    setLines([]);
    setCrossings([]);
    setNote("");
    return queries.invalidateQueries({ queryKey: [slug, "bank"] });
  };
  const matching = useMutation({
    mutationFn: (chosen: Pair) => matchLines(slug, account.slug, chosen.lines, chosen.crossings, note),
    onSuccess: done,
  });
  const marking = useMutation({ mutationFn: () => markLines(slug, account.slug, lines, "excluded", note), onSuccess: done });
  if (open.isPending || awaited.isPending) return <Loading what="what is open" lines={8} />;
  const failed = open.isError ? open : awaited.isError ? awaited : null;
  if (failed) return <ProblemNote error={failed.error} again={() => void failed.refetch()} />;
  if (!open.data || !awaited.data) return null;
  const shown = open.data.items;
  const left = summed(shown.filter((one) => lines.includes(one.id)).map((one) => one.amount));
  // An order that is paid already is not awaited, and may be paid once more.
  const there = [...awaited.data.awaited, ...paid.filter((one) => !awaited.data?.awaited.some((it) => it.crossing === one.crossing))];
  const chosen = there.filter((one) => crossings.includes(one.crossing));
  const right = summed(chosen.map((one) => one.amount));
  const difference = summed([left, negated(right)]);
  const inParts = mayComeInParts(chosen, shown.filter((one) => lines.includes(one.id)));
  const mayMatch = may("operate") && lines.length > 0 && crossings.length > 0 && (isZero(difference) || inParts);
  const busy = matching.isPending || marking.isPending;
  const pressed = (event: KeyboardEvent) => {
    const typing = event.target instanceof HTMLInputElement && event.target.type === "text";
    if (event.key === "m" && mayMatch && !busy && !typing) matching.mutate({ lines, crossings });
  };
  return (
    // Keys of the lists inside are heard here; nothing happens on a click.
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions
    <div onKeyDown={pressed}>
      <Proposals
        account={account}
        proposals={awaited.data.proposals}
        lines={shown}
        awaited={awaited.data.awaited}
        take={may("operate") && !busy ? (one) => matching.mutate(one) : null}
      />
      <div className="grid items-start gap-5 lg:grid-cols-2">
        <section aria-labelledby="open-lines" className="sheet">
          <h2 id="open-lines" className="mb-2 text-lg font-semibold">
            On the bank, and not known
          </h2>
          {shown.length === 0 ? <p className="text-faded">Every line is known.</p> : null}
          <Choices
            label="Open lines"
            of={shown.map((one) => ({ key: one.id, row: <LineRow line={one} /> }))}
            chosen={lines}
            choose={setLines}
            disabled={!may("operate")}
          />
          <Turn page={open.data} go={(next) => setCursor(next)} />
        </section>
        <section aria-labelledby="awaited" className="sheet">
          <h2 id="awaited" className="mb-2 text-lg font-semibold">
            Awaited, and not on the bank
          </h2>
          {awaited.data.awaited.length === 0 ? <p className="text-faded">All that is awaited has arrived.</p> : null}
          <Choices
            label="Awaited"
            of={there.map((one) => ({ key: one.crossing, row: <AwaitedRow one={one} slug={slug} /> }))}
            chosen={crossings}
            choose={setCrossings}
            disabled={!may("operate")}
          />
          {may("operate") && lines.length > 0 ? (
            <PaidAlready
              account={account}
              add={(one) => {
                setPaid((before) => [...before, one]);
                setCrossings((before) => [...before, one.crossing]);
              }}
            />
          ) : null}
        </section>
      </div>
      {may("operate") && lines.length + crossings.length > 0 ? (
        <section aria-label="What is chosen" className="sheet sticky bottom-0 mt-5 border-t-2 border-ink/60">
          <p role="status" className="flex flex-wrap gap-x-6">
            <span>
              {counted(lines.length, "line")} <Amount value={left} />
            </span>
            <span>
              {counted(crossings.length, "awaited sum")} <Amount value={right} />
            </span>
            <span className={isZero(difference) ? "" : "text-madder"}>
              left over <Amount value={difference} currency={account.currency} />
            </span>
          </p>
          <div className="mt-2 flex flex-wrap items-end gap-3">
            <label className="min-w-0 flex-1">
              <span className="mb-1 block text-sm text-faded">Why, or what it is</span>
              <input type="text" className="field w-full" value={note} maxLength={500} onChange={(event) => setNote(event.target.value)} />
            </label>
            <button type="button" className="button" aria-keyshortcuts="m" disabled={!mayMatch || busy} onClick={() => matching.mutate({ lines, crossings })}>
              Match <kbd className="rounded-sm border border-line px-1.5 text-xs">m</kbd>
            </button>
            <button
              type="button"
              className="button-quiet"
              disabled={busy || lines.length === 0 || crossings.length > 0 || !note.trim()}
              onClick={() => marking.mutate()}
            >
              Exclude
            </button>
          </div>
          {lines.length > 0 && crossings.length === 0 ? (
            <p className="mt-2 text-sm text-faded">Choose what it is on the right; or say what it is, where it is nothing of these.</p>
          ) : null}
          {inParts && lines.length > 0 && !isZero(difference) ? (
            <p className="mt-2 text-sm text-faded">
              {difference.startsWith("-") === left.startsWith("-")
                ? "It is more than is open: what is left over is owed to the buyer."
                : "It is a part of what is open; the rest stays open."}
            </p>
          ) : null}
        </section>
      ) : null}
      {matching.isError ? <ProblemNote error={matching.error} /> : null}
      {marking.isError ? <ProblemNote error={marking.error} /> : null}
    </div>
  );
}

interface Pair {
  lines: number[];
  crossings: number[];
}

interface ChoicesProps {
  label: string;
  of: { key: number; row: React.ReactNode }[];
  chosen: number[];
  choose: (chosen: number[]) => void;
  disabled: boolean;
}

/** Rows to choose from: the arrows go up and down, the space bar chooses. */
function Choices({ label, of, chosen, choose, disabled }: ChoicesProps) {
  const pressed = (event: KeyboardEvent<HTMLUListElement>) => {
    const way = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (way === 0) return;
    const boxes = [...event.currentTarget.querySelectorAll<HTMLInputElement>("input[type=checkbox]")];
    const place = boxes.indexOf(event.target as HTMLInputElement) + way;
    boxes[place]?.focus();
    event.preventDefault();
  };
  return (
    // The boxes inside are what is worked with; the list only lends them its arrows.
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions
    <ul aria-label={label} onKeyDown={pressed} className="divide-y divide-line">
      {of.map(({ key, row }) => (
        <li key={key} className={chosen.includes(key) ? "bg-wash" : ""}>
          <label className="flex cursor-pointer items-start gap-3 px-2 py-2">
            <input
              type="checkbox"
              className="mt-1"
              checked={chosen.includes(key)}
              disabled={disabled}
              onChange={(event) => choose(event.target.checked ? [...chosen, key] : chosen.filter((one) => one !== key))}
            />
            <span className="min-w-0 flex-1">{row}</span>
          </label>
        </li>
      ))}
    </ul>
  );
}

function LineRow({ line }: { line: BankLine }) {
  const says = [line.name, line.text].filter(Boolean).join(" · ") || line.reference;
  return (
    <span className="flex items-baseline justify-between gap-x-4">
      <span className="min-w-0">
        <span className="mr-3 whitespace-nowrap">{day(line.booked_on)}</span>
        <span className="break-words text-faded">{says}</span>
      </span>
      <Amount value={line.amount} currency={line.currency} />
    </span>
  );
}

/** Whether these lines may be less, or more, than what is awaited: money of one buyer, and all of it one way. */
function mayComeInParts(chosen: Awaited[], lines: BankLine[]) {
  const [one] = chosen;
  if (!one || chosen.length > 1 || one.kind === "payouts") return false;
  return lines.every((line) => line.amount.startsWith("-") === one.amount.startsWith("-"));
}

function AwaitedRow({ one, slug }: { one: Awaited; slug: string }) {
  const alsoCalled = one.kind === "payouts" ? [] : one.names.filter((name) => name !== one.number);
  return (
    <span className="flex items-baseline justify-between gap-x-4">
      <span className="min-w-0">
        <span className="text-faded">{KINDS[one.kind] ?? one.kind} </span>
        <Link className="link mr-3" to={`/${slug}/documents/${one.crossing}`}>
          {one.number}
        </Link>
        <span className="text-faded">{[...alsoCalled, isZero(one.amount) ? "paid" : due(one.due_on, one.days_late)].join(", ")}</span>
      </span>
      <Amount value={one.amount} currency={one.currency} />
    </span>
  );
}

interface ProposalsProps {
  account: BankAccount;
  proposals: MatchProposal[];
  lines: BankLine[];
  awaited: Awaited[];
  take: ((one: Pair) => void) | null;
}

/** What fits by its amount alone, for a person to say; and what is named and has another amount. */
function Proposals({ account, proposals, lines, awaited, take }: ProposalsProps) {
  const told = proposals.flatMap((one) => {
    const of = lines.filter((line) => one.lines.includes(line.id));
    // Lines of another page of the list are asked about there.
    return of.length === one.lines.length ? [{ one, of, names: awaited.filter((it) => one.crossings.includes(it.crossing)) }] : [];
  });
  if (told.length === 0) return null;
  return (
    <section aria-labelledby="proposed" className="sheet mb-5">
      <h2 id="proposed" className="mb-2 text-lg font-semibold">
        May belong together
      </h2>
      <ul className="divide-y divide-line">
        {told.map(({ one, of, names }) => (
          <li key={`${one.lines.join()}=${one.crossings.join()}`} className="flex flex-wrap items-baseline justify-between gap-3 py-2">
            <span>
              {of.map((line) => `${day(line.booked_on)}, ${line.text || line.name || line.reference}`).join("; ")}{" "}
              <Amount value={summed(of.map((line) => line.amount))} currency={account.currency} />
              <span className="text-faded"> {one.by === "amount" ? "has the amount of" : "names"} </span>
              {names.map((it) => it.number).join(", ")}
              {isZero(one.difference) ? null : (
                <span className="text-madder">
                  {" "}
                  and is <Amount value={one.difference} currency={account.currency} /> off
                </span>
              )}
            </span>
            {isZero(one.difference) && take ? (
              <button
                type="button"
                className="button-quiet"
                aria-label={`That is it: ${names.map((it) => it.number).join(", ")}`}
                onClick={() => take(one)}
              >
                That is it
              </button>
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
