import type { ReactNode } from "react";

/** The left page of a spread: at which end the document is, and what it is called. */
export function SourceFrame({ where, title, children }: { where: string; title: ReactNode; children?: ReactNode }) {
  return (
    <section aria-labelledby="source-title" className="p-6">
      <p className="text-xs text-faded">{where}</p>
      <h2 id="source-title" className="text-xl font-semibold">
        {title}
      </h2>
      {children}
    </section>
  );
}
