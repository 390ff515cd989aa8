import { useMutation } from "@tanstack/react-query";

import { Problem } from "../api/http";
import { ProblemNote } from "./Problem";

interface Asked {
  /** What the button says, and what it says once what ends is known. */
  label: string;
  meant: string;
  act: (confirm: boolean) => Promise<unknown>;
  done: () => void;
}

/** Doing what ends something for good: the first press says what would end, the second does it. */
export function Ending({ label, meant, act, done }: Asked) {
  const ending = useMutation({ mutationFn: act, onSuccess: done });
  const ends = endsOf(ending.error);
  if (ends === null)
    return (
      <>
        <button type="button" className="button-quiet" disabled={ending.isPending} onClick={() => ending.mutate(false)}>
          {label}
        </button>
        {ending.isError ? <ProblemNote error={ending.error} /> : null}
      </>
    );
  return (
    <div role="alert" className="border-l-4 border-l-madder pl-3">
      <p className="font-medium">{ends.what}</p>
      <ul className="mt-1 list-disc pl-5 text-sm">
        {ends.sentences.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
      <div className="mt-3 flex gap-3">
        <button type="button" className="button" disabled={ending.isPending} onClick={() => ending.mutate(true)}>
          {meant}
        </button>
        <button type="button" className="button-quiet" onClick={() => ending.reset()}>
          Leave it as it is
        </button>
      </div>
    </div>
  );
}

function endsOf(error: unknown): { what: string; sentences: string[] } | null {
  if (!(error instanceof Problem) || error.code !== "not-confirmed") return null;
  return { what: String(error.members.what), sentences: error.members.ends as string[] };
}
