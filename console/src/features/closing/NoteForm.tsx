import { type FormEvent, useCallback, useId, useState } from "react";

import { ProblemNote } from "../../parts/Problem";

interface Props {
  label: string;
  does: string;
  /** What is pressed where it is not meant after all. */
  leaves: string;
  needed: boolean;
  pending: boolean;
  error: unknown;
  act: (note: string) => void;
  close: () => void;
}

/** Doing something with a note beside it. */
export function NoteForm({ label, does, leaves, needed, pending, error, act, close }: Props) {
  const [note, setNote] = useState("");
  const field = useId();
  // Whoever asked for it writes next.
  const focused = useCallback((input: HTMLInputElement | null) => input?.focus(), []);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    act(note);
  };
  return (
    <form onSubmit={submit} className="w-full max-w-xl space-y-2 text-ink">
      <label htmlFor={field} className="block text-sm font-medium">
        {label}
        {needed ? null : <span className="font-normal text-faded"> (optional)</span>}
      </label>
      <input ref={focused} id={field} className="field w-full" required={needed} maxLength={500} value={note} onChange={(event) => setNote(event.target.value)} />
      <span className="flex flex-wrap gap-3">
        <button type="submit" className="button" disabled={pending}>
          {pending ? "One moment…" : does}
        </button>
        <button type="button" className="button-quiet" onClick={close}>
          {leaves}
        </button>
      </span>
      {error ? <ProblemNote error={error} /> : null}
    </form>
  );
}
