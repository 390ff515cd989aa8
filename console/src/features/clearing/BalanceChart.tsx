import type { AccountProof } from "../../api/types";
import { amountText } from "../../parts/Amount";
import { day } from "../../parts/words";
import { height, HEIGHT, reach, steps, WIDTH } from "./chart";

interface Props {
  result: AccountProof;
  first: string;
  last: string;
}

/** The balance of the account from day to day: by what was posted from here, and in the books where that is another. */
export function BalanceChart({ result, first, last }: Props) {
  const scale = reach([result.opening, ...result.days.flatMap((one) => [one.closing, one.books])]);
  const line = (pick: "closing" | "books") =>
    steps(
      result.opening,
      result.days.map((one) => ({ day: one.day, amount: one[pick] })),
      first,
      last,
      scale,
    );
  const parted = result.days.some((one) => one.closing !== one.books);
  const highest = result.days.reduce((most, one) => (Number(one.closing) > Number(most) ? one.closing : most), result.opening);
  const nought = height("0", scale);
  return (
    <figure>
      <svg
        viewBox={`-4 -6 ${WIDTH + 8} ${HEIGHT + 12}`}
        role="img"
        aria-label={`The balance from ${day(first)} to ${day(last)}: it began with ${amountText(result.opening)}, stood at ${amountText(highest)} at most, and ended with ${amountText(result.closing)}; the table below has each day.`}
        className="h-40 w-full"
        preserveAspectRatio="none"
      >
        <line x1={0} x2={WIDTH} y1={nought} y2={nought} className="stroke-line" vectorEffect="non-scaling-stroke" />
        {parted ? (
          <polyline points={line("books")} className="fill-none stroke-madder" strokeWidth={2} strokeDasharray="6 3" vectorEffect="non-scaling-stroke" />
        ) : null}
        <polyline points={line("closing")} className="fill-none stroke-blue" strokeWidth={2} vectorEffect="non-scaling-stroke" />
      </svg>
      <figcaption className="mt-1 flex flex-wrap justify-between gap-x-6 text-xs text-faded">
        <span>{day(first)}</span>
        <span>
          at most {amountText(highest)} {result.currency}
          {parted ? (
            <>
              ; <span className="text-madder">dashed: in the books</span>
            </>
          ) : null}
        </span>
        <span>{day(last)}</span>
      </figcaption>
    </figure>
  );
}
