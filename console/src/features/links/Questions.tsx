import { useEffect, useLayoutEffect, useRef, useState } from "react";

import type { LinkKind } from "../../api/links";
import type { Bridge, Name, Question } from "../../api/types";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { Another } from "./Another";
import { type Act, actOf } from "./machine";
import { useQuestions } from "./useQuestions";

interface Props {
  bridge: Bridge;
  kind: LinkKind;
  open: number;
}

/** What a person must say, one after the other, side by side, by keyboard. */
export function Questions({ bridge, kind, open }: Props) {
  const { slug, may } = useWorkspace();
  const asked = useQuestions(slug, bridge.slug, kind);
  const { question } = asked;
  const mayAnswer = may("operate") && !asked.busy;
  return (
    <>
      {asked.failure ? <ProblemNote error={asked.failure} again={asked.begin} /> : null}
      {asked.waiting ? <Loading what="the questions" /> : null}
      {!question && !asked.waiting && !asked.failure ? (
        <AllAnswered open={open} passed={asked.passed} again={asked.begin} undo={mayAnswer ? asked.undo : null} />
      ) : null}
      {question ? (
        <InFront key={question.entry.source_id} question={question} asked={asked} bridge={bridge} kind={kind} mayAnswer={mayAnswer} />
      ) : null}
    </>
  );
}

interface InFrontProps {
  question: Question;
  asked: ReturnType<typeof useQuestions>;
  bridge: Bridge;
  kind: LinkKind;
  mayAnswer: boolean;
}

/** The question in front; every answer has a key of its own. */
function InFront({ question, asked, bridge, kind, mayAnswer }: InFrontProps) {
  const [searching, setSearching] = useState(false);
  const front = useRef<HTMLElement>(null);
  useEffect(() => front.current?.focus(), []);
  const key = question.entry.source_id;
  const act = (what: Act) => {
    if (what.type === "take") asked.take(key, question.suggestions[what.place] ?? null);
    else if (what.type === "none") asked.take(key, null);
    else if (what.type === "create") asked.create(key);
    else if (what.type === "pass") asked.pass();
    else if (what.type === "undo") asked.undo();
    else setSearching(true);
  };
  // Before the question is painted: a key pressed as soon as it can be read must not go by unheard.
  useLayoutEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement;
      if (!mayAnswer || typing || event.ctrlKey || event.metaKey || event.altKey) return;
      // Enter on a button is that button.
      if (event.key === "Enter" && event.target instanceof HTMLButtonElement) return;
      const what = actOf(event.key, question.suggestions.length);
      if (!what) return;
      event.preventDefault();
      act(what);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  });
  return (
    <section
      ref={front}
      tabIndex={-1}
      aria-label={`Question about ${question.entry.name}`}
      className="grid items-start gap-5 outline-none lg:grid-cols-[20rem_1fr]"
    >
      <Sold entry={question.entry} kind={kind} />
      <div>
        <Offers question={question} disabled={!mayAnswer} take={(place) => act({ type: "take", place })} />
        {searching ? (
          <Another connection={bridge.books} kind={kind} taken={(one) => asked.take(key, one)} left={() => setSearching(false)} />
        ) : null}
        <div className="mt-4 flex flex-wrap gap-3">
          <Key name="n" text="None" disabled={!mayAnswer} act={() => act({ type: "none" })} />
          <Key name="c" text="Create in the books" disabled={!mayAnswer} act={() => act({ type: "create" })} />
          <Key name="/" text="Another" disabled={!mayAnswer} act={() => act({ type: "search" })} />
          <Key name="s" text="Skip" disabled={false} act={() => act({ type: "pass" })} />
          <Key name="u" text="Undo" disabled={!mayAnswer} act={() => act({ type: "undo" })} />
        </div>
      </div>
    </section>
  );
}

function Sold({ entry, kind }: { entry: Name; kind: LinkKind }) {
  const told = entry.details as Record<string, string>;
  return (
    <div className="sheet">
      <p className="text-xs text-faded">{kind === "products" ? "At the shop" : "The customer"}</p>
      <h2 className="mt-1 text-xl font-semibold">{entry.name || entry.code}</h2>
      <dl className="mt-2 space-y-1 text-sm">
        {[["Code", entry.code], ["Barcode", told["barcode"]], ["E-mail", told["email"]], ["Tax number", told["tax_number"]],
          ["Postcode", told["postcode"]], ["A pack of", told["pack_of"]]].map(([name, value]) =>
          value ? (
            <div key={name} className="flex gap-2">
              <dt className="w-24 shrink-0 text-faded">{name}</dt>
              <dd className="min-w-0 break-words">{value}</dd>
            </div>
          ) : null,
        )}
      </dl>
    </div>
  );
}

function Offers({ question, disabled, take }: { question: Question; disabled: boolean; take: (place: number) => void }) {
  if (!question.suggestions.length) {
    return <p className="sheet text-faded">Nothing in the books is like it. Look for another, create it, or say none.</p>;
  }
  return (
    <ol className="space-y-2">
      {question.suggestions.map((one, place) => (
        <li key={one.targets.map((target) => target.id).join()}>
          <button
            type="button"
            disabled={disabled}
            onClick={() => take(place)}
            className="flex w-full cursor-pointer items-start gap-4 border border-line bg-page p-3 text-left hover:border-blue disabled:opacity-60"
          >
            <kbd className="mt-0.5 rounded-sm border border-line bg-wash px-1.5 text-sm">{place ? place + 1 : "1 ↵"}</kbd>
            <span className="min-w-0 flex-1">
              {one.targets.map((target) => (
                <span key={target.id} className="block">
                  {Number(target.quantity) === 1 ? "" : `${target.quantity} × `}
                  <span className="font-medium">{target.name}</span>{" "}
                  <span className="text-sm text-faded">{[target.code, target.email, target.postcode].filter(Boolean).join(" · ")}</span>
                </span>
              ))}
              <span className="block text-sm text-faded">{one.reason}</span>
            </span>
            <span className="text-lg tabular-nums" title="How alike, of 100">
              {one.points}
            </span>
          </button>
        </li>
      ))}
    </ol>
  );
}

function Key({ name, text, act, disabled }: { name: string; text: string; act: () => void; disabled: boolean }) {
  return (
    <button type="button" className="button-quiet" onClick={act} disabled={disabled} aria-keyshortcuts={name}>
      {text} <kbd className="rounded-sm border border-line bg-wash px-1.5 text-xs">{name}</kbd>
    </button>
  );
}

interface LastProps {
  open: number;
  passed: number;
  again: () => void;
  undo: (() => void) | null;
}

function AllAnswered({ open, passed, again, undo }: LastProps) {
  if (!open) {
    return (
      <Empty title="Every question is answered">
        Everything that was loaded is answered for.{" "}
        {undo ? (
          <button type="button" className="link cursor-pointer" onClick={undo}>
            Undo the last answer
          </button>
        ) : null}
      </Empty>
    );
  }
  return (
    <Empty title="That was the last one">
      {passed ? `You skipped ${passed}. ` : ""}
      {open} are open still.{" "}
      <button type="button" className="link cursor-pointer" onClick={again}>
        Begin again
      </button>
    </Empty>
  );
}
