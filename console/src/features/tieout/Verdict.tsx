import type { SheetRow, TieOut } from "../../api/types";
import { counted } from "../../parts/words";

interface Props {
  ties: boolean;
  differing: TieOut["differing"];
  /** Sales, refunds and both, which each document is in once. */
  rows: SheetRow[];
  /** The same figures otherwise parted. */
  besides?: SheetRow[];
}

/** Whether a period ties, and in a line what stands in the way. */
export function Verdict({ ties, differing, rows, besides = [] }: Props) {
  if (ties) {
    return (
      <p role="status" className="mb-3">
        <span className="font-semibold text-moss">It ties.</span> Every difference is accounted for, and no document differs in the books.
      </p>
    );
  }
  const unexplained = [...rows, ...besides].some((row) => row.parts.some((part) => part.reason === "unexplained"));
  return (
    <div role="status" className="mb-3">
      <p>
        <span className="font-semibold text-madder">It does not tie yet.</span> {openDocuments(rows, differing.map((one) => one.reason))}
      </p>
      {differing.map((one) => (
        <p key={one.reason} className="text-madder">
          {counted(one.documents, "document")} {one.documents === 1 ? "is" : "are"} {one.reason}.
        </p>
      ))}
      {unexplained ? <p className="text-madder">What is unexplained should be the same on both sides, and nobody knows why it is not.</p> : null}
    </div>
  );
}

/** "23 documents are held, 1 document is waiting": all that is open, but for what is told by itself. */
function openDocuments(rows: SheetRow[], toldByThemselves: string[]): string {
  const numbers = new Map<string, number>();
  for (const part of rows.filter((row) => row.section !== "both").flatMap((row) => row.parts)) {
    const isOpen = !part.settled && part.reason !== "unexplained" && !toldByThemselves.includes(part.reason);
    if (isOpen && part.documents) numbers.set(part.reason, (numbers.get(part.reason) ?? 0) + part.documents);
  }
  const told = [...numbers].map(([reason, number]) => `${counted(number, "document")} ${number === 1 ? "is" : "are"} ${reason}`);
  return told.length ? `${told.join(", ")}.` : "";
}
