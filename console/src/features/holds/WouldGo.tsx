import type { ReactNode } from "react";

import type { Freed } from "../../api/types";
import { counted } from "../../parts/words";

/** What mending would free, and why the rest would be held again; below it what puts it in force. */
export function WouldGo({ freed, children }: { freed: Freed; children: ReactNode }) {
  return (
    <div role="status" className="border-l-4 border-moss pl-3">
      <p>
        {freed.would_go} of {counted(freed.tried, "document")} would go
        {freed.tried < freed.of ? ` (the first of ${freed.of})` : ""}. Nothing was sent.
      </p>
      {freed.again.map((one) => (
        <p key={one.text} className="text-sm">
          {one.count} would be held again: {one.text}
        </p>
      ))}
      {children}
    </div>
  );
}
