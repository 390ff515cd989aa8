import type { SpreadAnswer } from "../../api/types";
import { moment } from "../../parts/words";

const WORDS: Record<string, string> = {
  staged: "Read at the origin",
  changed: "Changed at the origin, and read again",
  waiting: "Waits",
  posted: "Posted",
  proved: "Read back, and as planned",
  carried: "Carried",
  held: "Held for a person",
  differs: "Read back, and not as planned",
  "left out": "Left out",
  adopted: "Adopted as the books have it",
  reported: "Reported back to the sales side",
  released: "Released",
  withdrawn: "Taken back from the books",
  requeued: "Taken up again after an interruption",
};

type Event = SpreadAnswer["history"][number];

/** What happened to a document on its way, the first first. */
export function History({ spread }: { spread: SpreadAnswer }) {
  if (!spread.history.length) return null;
  return (
    <section aria-labelledby="history" className="sheet mt-5">
      <h2 id="history" className="mb-2 text-lg font-semibold">
        History
      </h2>
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
    </section>
  );
}

/** What there is to say besides: which document, by whom, in which run, why. */
function details({ detail, by, run }: Event): string {
  const said = detail as { role?: string; draft?: boolean; number?: string; text?: string; rule?: string; cause?: string };
  return [
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
