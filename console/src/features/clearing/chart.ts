/** Where a balance stood by day, as the points of a line that steps: lengths of a picture, never amounts. */

const DAY_MS = 86_400_000;

export const WIDTH = 720;
export const HEIGHT = 150;

interface Stood {
  day: string;
  amount: string;
}

export interface Scale {
  low: number;
  high: number;
}

/** How far the lines reach, with nought in it. */
export function reach(amounts: readonly string[]): Scale {
  const values = amounts.map(Number);
  return { low: Math.min(0, ...values), high: Math.max(0, ...values) };
}

const place = (day: string, first: string, last: string) => {
  const [from, to] = [Date.parse(first), Date.parse(last) + DAY_MS];
  return ((Date.parse(day) - from) / (to - from)) * WIDTH;
};

export const height = (amount: string, { low, high }: Scale) =>
  high > low ? HEIGHT - ((Number(amount) - low) / (high - low)) * HEIGHT : HEIGHT;

const rounded = (value: number) => Math.round(value * 10) / 10;

/** The line of a balance: level from day to day, and a step on each day that moved it. */
export function steps(opening: string, stood: readonly Stood[], first: string, last: string, scale: Scale): string {
  let level = height(opening, scale);
  const points = [[0, level]];
  for (const one of stood) {
    const x = place(one.day, first, last);
    points.push([x, level]);
    level = height(one.amount, scale);
    points.push([x, level]);
  }
  points.push([WIDTH, level]);
  return points.map(([x = 0, y = 0]) => `${rounded(x)},${rounded(y)}`).join(" ");
}
