import { useQuery } from "@tanstack/react-query";
import { useId } from "react";

import { namesQuery } from "../../api/connections";
import { useSettled } from "../../parts/useSettled";
import { useWorkspace } from "../../parts/useWorkspace";

const MOST_OFFERED = 25;

interface Props {
  label: string;
  connection: string;
  kind: "items" | "contacts";
  value: string;
  onChange: (value: string) => void;
  required?: boolean;
}

/** One of the books' own, by its code: what is called so is offered while one types. */
export function PickName({ label, connection, kind, value, onChange, required = false }: Props) {
  const { slug } = useWorkspace();
  const id = useId();
  const q = useSettled(value.trim());
  const found = useQuery({
    ...namesQuery(slug, connection, { kind, q, change: "", cursor: "", limit: MOST_OFFERED }),
    enabled: q.length > 0,
  });
  const offers = found.data?.items ?? [];
  const name = offers.find((one) => one.code === value || one.source_id === value)?.name;
  return (
    <label>
      <span className="block font-medium">{label}</span>
      <input
        className="field w-52"
        list={id}
        value={value}
        required={required}
        spellCheck={false}
        autoComplete="off"
        placeholder="Part of a code or name"
        onChange={(event) => onChange(event.target.value)}
      />
      <datalist id={id}>
        {offers.map((one) => (
          <option key={one.id} value={one.code || one.source_id}>
            {one.name}
          </option>
        ))}
      </datalist>
      <span className="ml-2 text-sm text-faded">
        {name ?? (q && found.data && !offers.length ? "Nothing is called so; load the names again if it is new." : "")}
      </span>
    </label>
  );
}
