import { Field, Label, Listbox, ListboxButton, ListboxOption, ListboxOptions, Switch } from "@headlessui/react";
import { type FormEvent, useState } from "react";

import { causeInWords, KINDS, STATES } from "../../parts/words";
import { active, type Filters, NO_FILTERS } from "./filters";

type Change = (change: Partial<Filters>) => void;

/** What the list is narrowed to; each change goes into the address at once. */
export function FilterBar({ filters, change }: { filters: Filters; change: Change }) {
  return (
    <div className="mb-4 flex flex-wrap items-end gap-3">
      <Search key={filters.search} value={filters.search} change={change} />
      <Kinds value={filters.kind} change={change} />
      <States value={filters.state} change={change} />
      <Day label="From" value={filters.from} change={(from) => change({ from })} />
      <Day label="To" value={filters.to} change={(to) => change({ to })} />
      <Switch
        checked={filters.differing}
        onChange={(differing: boolean) => change({ differing })}
        className="button-quiet data-checked:border-blue data-checked:bg-wash"
      >
        <span aria-hidden="true">{filters.differing ? "☑" : "☐"}</span> With a rounding
      </Switch>
      {filters.cause ? <Chip text={causeInWords(filters.cause)} clear={() => change({ cause: "" })} /> : null}
      {filters.run ? (
        <Chip
          text={`Run ${filters.run}${filters.outcome ? `, ${filters.outcome}` : ""}`}
          clear={() => change({ run: "", outcome: "" })}
        />
      ) : null}
      {active(filters) ? (
        <button type="button" className="link cursor-pointer py-1.5" onClick={() => change(NO_FILTERS)}>
          Show all
        </button>
      ) : null}
    </div>
  );
}

function Search({ value, change }: { value: string; change: Change }) {
  const [typed, setTyped] = useState(value);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change({ search: typed.trim() });
  };
  return (
    <form role="search" onSubmit={submit}>
      <label className="block">
        <span className="block text-xs text-faded">Number on either side</span>
        <input type="search" className="field w-44" value={typed} onChange={(event) => setTyped(event.target.value)} />
      </label>
    </form>
  );
}

function Kinds({ value, change }: { value: string; change: Change }) {
  return (
    <label className="block">
      <span className="block text-xs text-faded">Kind</span>
      <select className="field" value={value} onChange={(event) => change({ kind: event.target.value })}>
        <option value="">any</option>
        {Object.entries(KINDS).map(([kind, word]) => (
          <option key={kind} value={kind}>
            {word || "Opening balances"}
          </option>
        ))}
      </select>
    </label>
  );
}

function States({ value, change }: { value: string[]; change: Change }) {
  return (
    <Field>
      <Label className="block text-xs text-faded">State</Label>
      <Listbox value={value} onChange={(state: string[]) => change({ state })} multiple>
        <ListboxButton className="field min-w-32 cursor-pointer text-left">
          {value.length ? value.join(", ") : "any"}
        </ListboxButton>
        <ListboxOptions anchor="bottom start" className="z-10 w-40 border border-line bg-page py-1 shadow-md outline-none">
          {STATES.map((state) => (
            <ListboxOption key={state} value={state} className="cursor-pointer px-3 py-1 data-focus:bg-wash">
              {({ selected }) => (
                <>
                  <span aria-hidden="true">{selected ? "☑" : "☐"}</span> {state}
                </>
              )}
            </ListboxOption>
          ))}
        </ListboxOptions>
      </Listbox>
    </Field>
  );
}

function Day({ label, value, change }: { label: string; value: string; change: (value: string) => void }) {
  return (
    <label className="block">
      <span className="block text-xs text-faded">{label}</span>
      <input type="date" className="field" value={value} onChange={(event) => change(event.target.value)} />
    </label>
  );
}

function Chip({ text, clear }: { text: string; clear: () => void }) {
  return (
    <button type="button" className="button-quiet bg-wash" onClick={clear} aria-label={`Take away the filter: ${text}`}>
      {text} <span aria-hidden="true">×</span>
    </button>
  );
}
