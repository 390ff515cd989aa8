import { useQueryClient } from "@tanstack/react-query";
import { lazy, type RefObject, Suspense, useState } from "react";

import type { Finding } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { useWorkspace } from "../../parts/useWorkspace";
import type { Edits } from "../mapping/edits";
import { offersOf } from "../mapping/offers";
import type { Subject } from "../mapping/subject";
import type { EditorHandle } from "./RulesEditor";

// Both are large, and not everybody who looks at rules comes for both.
const Mapping = lazy(async () => ({ default: (await import("../mapping/Mapping")).Mapping }));
const RulesEditor = lazy(async () => ({ default: (await import("./RulesEditor")).RulesEditor }));

interface Props {
  subject: Subject;
  text: string;
  onText: (text: string) => void;
  edits: Edits;
  findings: Finding[];
  handle: RefObject<EditorHandle | null>;
  shown: Shown;
}

export interface Shown {
  asFields: boolean;
  show: (asFields: boolean) => void;
}

/** Whether rules stand there as text or as fields; they begin as text. */
export function useShown(): Shown {
  const [asFields, show] = useState(false);
  return { asFields, show };
}

/** Rules as one text, or as fields that are made in it: the same document either way. */
export function TextOrFields({ subject, text, onText, edits, findings, handle, shown }: Props) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  // A change in a field is made in the text a moment later: what is shown as text waits for it.
  const asText = () => void edits.made().catch(() => undefined).then(() => shown.show(false));
  return (
    <>
      <div role="group" aria-label="How the rules are shown" className="mb-3 flex gap-2">
        <button type="button" className={shown.asFields ? "button-quiet" : "button"} aria-pressed={!shown.asFields} onClick={asText}>
          As text
        </button>
        <button type="button" className={shown.asFields ? "button" : "button-quiet"} aria-pressed={shown.asFields} disabled={!text} onClick={() => shown.show(true)}>
          As fields
        </button>
      </div>
      <Suspense fallback={<Loading what={shown.asFields ? "the rules as fields" : "the text"} lines={10} />}>
        {shown.asFields ? (
          <Mapping subject={subject} text={text} onText={onText} edits={edits} />
        ) : (
          <RulesEditor
            handle={handle}
            text={text}
            onChange={onText}
            readOnly={!may("edit")}
            findings={findings}
            file={subject.file}
            names={(offered, typed) => offersOf(queries, slug, subject.ends, offered, typed)}
          />
        )}
      </Suspense>
    </>
  );
}

/** Bring a line of the text into sight, also where the fields stand in its place now. */
export function toLine(handle: RefObject<EditorHandle | null>, shown: Shown, line: number, tries = 40) {
  shown.show(false);
  if (handle.current) handle.current.showLine(line);
  else if (tries) requestAnimationFrame(() => toLine(handle, shown, line, tries - 1));
}
