const WIDTH = 120;
const HEIGHT = 14;

interface Pair {
  before: string;
  after: string;
}

/** How far the bars of a group reach below nought and above it, so that all of it stand on one scale. */
export function reach(pairs: Pair[]): { low: number; high: number } {
  // Lengths of bars, not amounts: nothing is summed or shown of these.
  const values = pairs.flatMap((one) => [Number(one.before), Number(one.after)]);
  return { low: Math.min(0, ...values), high: Math.max(0, ...values) };
}

/** Where a bar begins and how long it is, of so wide a picture. */
export function bar(value: string, { low, high }: { low: number; high: number }): { x: number; width: number } {
  const scale = high > low ? WIDTH / (high - low) : 0;
  const [from, to] = [Math.min(0, Number(value)), Math.max(0, Number(value))];
  return { x: (from - low) * scale, width: (to - from) * scale };
}

/** Before over after, as two bars on the scale of their group; the figures beside them say it exactly. */
export function Bars({ pair, scale }: { pair: Pair; scale: { low: number; high: number } }) {
  const nought = bar("0", scale).x;
  return (
    <svg width={WIDTH} height={HEIGHT} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden="true" className="inline-block">
      <rect y={1} height={5} {...bar(pair.before, scale)} className="fill-faded/50" />
      <rect y={8} height={5} {...bar(pair.after, scale)} className="fill-blue" />
      <line x1={nought} x2={nought} y1={0} y2={HEIGHT} className="stroke-ink/60" />
    </svg>
  );
}
