import { ProblemNote } from "./Problem";

interface Props {
  /** How far it is, in words. */
  said: string;
  label: string;
  total: number | null;
  done: number;
  onCancel: () => void;
  cancelling: boolean;
  error: Error | null;
}

/** Work in the background: how far it is, and its end. */
export function UnderWay({ said, label, total, done, onCancel, cancelling, error }: Props) {
  return (
    <section aria-label="Progress" className="sheet">
      <p role="status">{total === null ? "Waiting for a worker…" : said}</p>
      <progress aria-label={label} className="mt-3 w-full" max={total ?? 1} value={total ? done : undefined} />
      {error ? <ProblemNote error={error} /> : null}
      <button type="button" className="button-quiet mt-3" disabled={cancelling} onClick={onCancel}>
        Cancel
      </button>
    </section>
  );
}
