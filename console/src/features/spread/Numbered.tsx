import type { SpreadDocument } from "../../api/types";

/** Its number in the books, leading to its page there where it has one. */
export function Numbered({ document, without }: { document: SpreadDocument; without: string }) {
  const number = document.books_number || <span className="text-faded">{without}</span>;
  if (!/^https?:/.test(document.link)) return number;
  return (
    <a className="link" href={document.link} target="_blank" rel="noreferrer" title="Open it in the books">
      {number}
    </a>
  );
}
