import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { logLines, logQuery } from "../../api/crossings";
import type { LogEntry, SpreadAnswer } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { moment } from "../../parts/words";

const WORDS: Record<string, string> = {
  staged: "Read at the origin",
  changed: "Changed at the origin, and read again",
  told: "Told of money",
  read: "Read again in the books:",
  waiting: "Waits",
  posted: "Posted",
  proved: "Read back, and as planned",
  carried: "Carried",
  held: "Held for a person",
  differs: "Read back, and not as planned",
  "left out": "Left out",
  adopted: "Adopted as the books have it",
  reported: "Written back",
  released: "Released",
  withdrawn: "Taken back from the books",
  requeued: "Taken up again after an interruption",
  decided: "Decided by a person",
  amended: "Changed after it was posted, and amended in the books",
  gone: "Its origin has it no more",
  back: "Its origin has it again",
  closed: "Changed a month that is closed",
};

type Event = SpreadAnswer["history"][number];

/** What happened to a document on its way, the first first. */
export function History({ spread }: { spread: SpreadAnswer }) {
  const { slug } = useWorkspace();
  const [open, setOpen] = useState(false);
  if (!spread.history.length) return null;
  return (
    <section aria-labelledby="history" className="sheet mt-5">
      <div className="mb-2 flex flex-wrap items-baseline justify-between gap-3">
        <h2 id="history" className="text-lg font-semibold">
          History
        </h2>
        <p className="flex flex-wrap gap-4">
          <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Hide the calls" : "With every call"}
          </button>
          <a className="link" href={logLines(slug, spread.id)} download>
            As JSON Lines
          </a>
        </p>
      </div>
      {open ? <Log spread={spread} /> : <Events spread={spread} />}
    </section>
  );
}

/** What happened, and every call to an end about it, with how long it took and what was said. */
function Log({ spread }: { spread: SpreadAnswer }) {
  const { slug } = useWorkspace();
  const found = useQuery(logQuery(slug, spread.id));
  if (found.isPending) return <Loading what="the log" lines={6} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return (
    <ol className="space-y-1">
      {found.data.map((entry, place) => (
        <li key={place} className="grid gap-x-4 sm:grid-cols-[11rem_1fr]">
          <time className="text-sm text-faded" dateTime={entry.at}>
            {moment(entry.at, spread.time_zone)}
          </time>
          {entry.connection ? <ACall entry={entry} /> : <span>{entry.text}</span>}
        </li>
      ))}
    </ol>
  );
}

function ACall({ entry }: { entry: LogEntry }) {
  return (
    <details>
      <summary className="cursor-pointer">
        {entry.text}
        <span className={entry.outcome === "answered" ? "text-faded" : "text-madder"}>
          {" "}
          – {entry.outcome}
          {entry.milliseconds === null ? "" : `, ${entry.milliseconds} ms`}
        </span>
      </summary>
      {(
        [
          ["Sent", entry.sent],
          ["Answered", entry.answered],
        ] as const
      ).map(([name, said]) =>
        said === null ? null : (
          <div key={name}>
            <p className="text-xs text-faded">{name}</p>
            <pre className="bg-wash p-2 text-xs break-all whitespace-pre-wrap">
              {JSON.stringify(said, null, 1)}
            </pre>
          </div>
        ),
      )}
    </details>
  );
}

function Events({ spread }: { spread: SpreadAnswer }) {
  return (
      <ol className="space-y-1">
        {spread.history.map((event, place) => (
          <li key={place} className="grid gap-x-4 sm:grid-cols-[11rem_1fr]">
            <time className="text-sm text-faded" dateTime={event.at}>
              {moment(event.at, spread.time_zone)}
            </time>
            <span>
              {WORDS[event.kind] ?? event.kind} <span className="text-faded">{details(event)}</span>
            </span>
          </li>
        ))}
      </ol>
  );
}

/** What there is to say besides: which document, by whom, in which run, why. */
function details({ detail, by, run }: Event): string {
  const said = detail as {
    role?: string; draft?: boolean; number?: string; text?: string; rule?: string; cause?: string; kind?: string; note?: string;
  };
  return [
    // What somebody decided, and why.
    said.kind,
    said.note && `“${said.note}”`,
    said.role && (said.draft ? `${said.role}, as a draft` : said.role),
    said.number,
    said.rule && `by ${said.rule}`,
    // The finding above says in full why it is held; its cause is enough here.
    said.cause ? said.cause.replaceAll("-", " ") : said.text,
    by && `by ${by}`,
    run && `run ${run}`,
  ]
    .filter(Boolean)
    .join(", ");
}
