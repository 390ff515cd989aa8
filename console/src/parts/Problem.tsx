import { Problem } from "../api/http";

/** What happened, why, and what to do; with a way to try again. */
export function ProblemNote({ error, again }: { error: unknown; again?: () => void }) {
  const problem = error instanceof Problem ? error : null;
  return (
    <div role="alert" className="sheet border-l-4 border-l-madder">
      <p className="font-medium">{problem?.message ?? "The console failed on this."}</p>
      <p className="mt-1 text-faded">{problem?.hint || "Try again; if it stays, the service's log says more."}</p>
      {again ? (
        <button type="button" className="button-quiet mt-3" onClick={again}>
          Try again
        </button>
      ) : null}
    </div>
  );
}
