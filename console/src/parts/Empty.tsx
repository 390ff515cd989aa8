import type { ReactNode } from "react";

/** Nothing is here, and what to do next. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="sheet py-10 text-center">
      <p className="font-serif text-lg">{title}</p>
      <div className="mx-auto mt-2 max-w-prose text-faded">{children}</div>
    </div>
  );
}
