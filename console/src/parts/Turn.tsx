import { cursorOf } from "./cursor";

interface Props {
  page: { next: string | null; previous: string | null };
  go: (cursor: string) => void;
}

/** To the pages of a list before and after this one. */
export function Turn({ page, go }: Props) {
  if (!page.next && !page.previous) return null;
  return (
    <nav aria-label="Pages of the list" className="mt-4 flex gap-3">
      <To name="Earlier in the list" link={page.previous} go={go} />
      <To name="Further in the list" link={page.next} go={go} />
    </nav>
  );
}

function To({ name, link, go }: { name: string; link: string | null; go: (cursor: string) => void }) {
  if (!link) return null;
  return (
    <button type="button" className="button-quiet" onClick={() => go(cursorOf(link))}>
      {name}
    </button>
  );
}
