import { createContext, type ReactNode, useContext } from "react";

import type { Lit } from "./links";

interface Pointing {
  lit: Lit;
  pointable: ReadonlySet<string>;
  point: (pointer: string | null) => void;
  pin: (pointer: string) => void;
  /** The reason for a value, in words; nothing where none names it. */
  reason: (pointer: string) => string;
}

export const PointingContext = createContext<Pointing | null>(null);

/** A value that can be pointed at, by mouse or keyboard, where a reason names it. */
export function Point({ at, label, children }: { at: string; label: string; children: ReactNode }) {
  const pointing = useContext(PointingContext);
  if (!pointing?.pointable.has(at)) return <>{children}</>;
  const { lit, point, pin } = pointing;
  return (
    <button
      type="button"
      data-at={at}
      aria-label={label}
      aria-pressed={lit.pointers.has(at)}
      className="cursor-help rounded-xs px-0.5 underline decoration-line decoration-dotted underline-offset-4 aria-pressed:bg-glow aria-pressed:decoration-ink"
      onMouseEnter={() => point(at)}
      onMouseLeave={() => point(null)}
      onFocus={() => point(at)}
      onBlur={() => point(null)}
      onClick={() => pin(at)}
    >
      {children}
    </button>
  );
}
