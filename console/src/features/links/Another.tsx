import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { namesQuery } from "../../api/connections";
import type { LinkKind } from "../../api/links";
import type { Name, Suggestion } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";

const KEPT = { products: "items", customers: "contacts" } as const;
const PAUSE_MS = 200;

interface Props {
  connection: string;
  kind: LinkKind;
  taken: (suggestion: Suggestion) => void;
  left: () => void;
}

/** Another of the books, by part of its code or name. */
export function Another({ connection, kind, taken, left }: Props) {
  const { slug } = useWorkspace();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  const [typed, setTyped] = useState("");
  const [q, setQ] = useState("");
  useEffect(() => {
    const later = setTimeout(() => setQ(typed.trim()), PAUSE_MS);
    return () => clearTimeout(later);
  }, [typed]);
  const found = useQuery({
    ...namesQuery(slug, connection, { kind: KEPT[kind], q, change: "", cursor: "" }),
    enabled: q.length > 0,
  });
  const choose = (one: Name | null) => {
    if (one) taken(suggestionOf(one));
  };
  return (
    <div className="mt-4">
      <Combobox value={null as Name | null} onChange={choose}>
        <ComboboxInput
          ref={input}
          aria-label="Part of a code or name in the books"
          placeholder="Part of a code or name in the books"
          className="field w-full"
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") left();
          }}
        />
        <ComboboxOptions anchor="bottom start" className="z-10 max-h-72 w-(--input-width) overflow-y-auto border border-line bg-page py-1 shadow-md">
          {(found.data?.items ?? []).map((one) => (
            <ComboboxOption key={one.id} value={one} className="cursor-pointer px-3 py-1.5 data-focus:bg-wash">
              {one.name || one.code} <span className="text-sm text-faded">{one.code}</span>
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
      {q && found.data && !found.data.items.length ? <p className="mt-1 text-sm text-faded">Nothing is called so.</p> : null}
    </div>
  );
}

function suggestionOf(one: Name): Suggestion {
  const target = { id: one.source_id, code: one.code, name: one.name, email: "", postcode: "", quantity: "1", share: null };
  return { targets: [target], points: 100, reason: "chosen by hand" };
}
