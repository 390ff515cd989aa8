import type { ReactNode } from "react";

/** What mends a cause, below what is held by it. */
export function MendForm({ submit, children }: { submit: () => void; children: ReactNode }) {
  return (
    <form
      className="mt-3 space-y-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      {children}
    </form>
  );
}
