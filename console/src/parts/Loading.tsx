/** Something is on its way; lines where it will stand, so that nothing jumps. */
export function Loading({ what, lines = 6 }: { what: string; lines?: number }) {
  return (
    <div role="status" className="sheet">
      <span className="sr-only">Loading {what}</span>
      <div aria-hidden="true" className="animate-pulse space-y-4">
        {Array.from({ length: lines }, (_, line) => (
          <div key={line} className="h-3 bg-wash" />
        ))}
      </div>
    </div>
  );
}
