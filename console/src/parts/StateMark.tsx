const LOOK: Record<string, { ink: string; sign: string }> = {
  carried: { ink: "text-moss", sign: "✓" },
  proved: { ink: "text-moss", sign: "✓" },
  ended: { ink: "text-moss", sign: "✓" },
  adopted: { ink: "text-moss", sign: "✓" },
  connected: { ink: "text-moss", sign: "✓" },
  linked: { ink: "text-moss", sign: "✓" },
  done: { ink: "text-moss", sign: "✓" },
  paid: { ink: "text-moss", sign: "✓" },
  "part paid": { ink: "text-ochre", sign: "…" },
  open: { ink: "text-ochre", sign: "…" },
  loading: { ink: "text-ochre", sign: "…" },
  attention: { ink: "text-madder", sign: "!" },
  limited: { ink: "text-madder", sign: "!" },
  expiring: { ink: "text-ochre", sign: "!" },
  "sign-in": { ink: "text-madder", sign: "!" },
  refused: { ink: "text-madder", sign: "!" },
  unreachable: { ink: "text-madder", sign: "!" },
  "other company": { ink: "text-madder", sign: "≠" },
  held: { ink: "text-madder", sign: "!" },
  differs: { ink: "text-madder", sign: "≠" },
  failed: { ink: "text-madder", sign: "!" },
  waiting: { ink: "text-ochre", sign: "…" },
  reading: { ink: "text-ochre", sign: "…" },
  carrying: { ink: "text-ochre", sign: "…" },
  "left out": { ink: "text-faded", sign: "–" },
  cancelled: { ink: "text-faded", sign: "–" },
};

/** A state in a word, with a sign beside it, so that colour alone says nothing. */
export function StateMark({ state }: { state: string }) {
  const look = LOOK[state] ?? { ink: "text-ink", sign: "·" };
  return (
    <span className={`inline-flex items-baseline gap-1.5 whitespace-nowrap ${look.ink}`}>
      <span aria-hidden="true" className="inline-block w-3 text-center font-semibold">
        {look.sign}
      </span>
      {state}
    </span>
  );
}
