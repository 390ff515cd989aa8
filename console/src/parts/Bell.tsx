import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { readTroubles, troublesQuery } from "../api/notices";
import type { Trouble } from "../api/types";
import { moment } from "./words";

const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** What needs somebody, and how much of it is new to whoever looks; opened, it is new no more. */
export function Bell({ slug }: { slug: string }) {
  const queries = useQueryClient();
  const found = useQuery({ ...troublesQuery(slug), retry: false });
  const reading = useMutation({
    mutationFn: () => readTroubles(slug),
    onSuccess: () => queries.invalidateQueries({ queryKey: troublesQuery(slug).queryKey }),
  });
  if (!found.data) return null;
  const { unread, troubles } = found.data;
  const said = unread ? `${unread} new` : troubles.length ? `${troubles.length} open` : "nothing open";
  return (
    <Popover className="relative">
      <PopoverButton
        className="cursor-pointer border-l-2 border-transparent px-2 py-1 text-left text-faded hover:text-ink"
        onClick={() => unread && reading.mutate()}
      >
        Notices{" "}
        <span className={`whitespace-nowrap ${unread ? "rounded-sm bg-madder px-1.5 font-medium text-page" : ""}`} aria-live="polite">
          {said}
        </span>
      </PopoverButton>
      <PopoverPanel className="absolute left-0 z-20 mt-1 max-h-[60vh] w-96 max-w-[90vw] overflow-y-auto border border-line bg-page p-4 shadow-md">
        {({ close }) => (
          <>
            {troubles.length ? null : <p className="text-faded">Nothing needs anybody.</p>}
            <ul className="divide-y divide-line">
              {troubles.map((trouble) => (
                <Row key={trouble.id} slug={slug} trouble={trouble} close={close} />
              ))}
            </ul>
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}

function Row({ slug, trouble, close }: { slug: string; trouble: Trouble; close: () => void }) {
  return (
    <li className="py-2">
      <Link className="link" to={`/${slug}/${trouble.page}`} onClick={close}>
        {trouble.headline}
      </Link>
      <span className="block text-sm text-faded">
        since {moment(trouble.opened_at, HERE)}
        {trouble.next_try_at ? `; next try ${until(trouble.next_try_at)}` : ""}
      </span>
    </li>
  );
}

const until = (iso: string) => new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
