import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { type RunChoice, startRun } from "../../api/runs";
import type { Bridge } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** Starting a run by hand: of everything new, of some lanes or days alone, or of orders by their numbers. */
export function ChooseRun({ bridges }: { bridges: Bridge[] }) {
  return (
    <Popover className="relative">
      <PopoverButton className="button" disabled={!bridges.length}>
        Start a run
      </PopoverButton>
      <PopoverPanel className="absolute right-0 z-10 mt-1 w-80 max-w-[90vw] border border-line bg-page p-4 shadow-md">
        <Form bridges={bridges} />
      </PopoverPanel>
    </Popover>
  );
}

function Form({ bridges }: { bridges: Bridge[] }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState(bridges[0]?.slug ?? "");
  const [lanes, setLanes] = useState<string[]>([]);
  const [first, setFirst] = useState("");
  const [last, setLast] = useState("");
  const [numbers, setNumbers] = useState("");
  const on = bridges.find((one) => one.slug === name)?.lanes.filter((lane) => lane.on) ?? [];
  const named = numbers.split(/[\s,;]+/).filter(Boolean);
  const starting = useMutation({
    mutationFn: () => {
      const chosen: RunChoice = named.length
        ? { numbers: named }
        : { ...(lanes.length ? { lanes } : {}), ...(first ? { first_day: first } : {}), ...(last ? { last_day: last } : {}) };
      return startRun(slug, name, chosen);
    },
    onSuccess: (started) => {
      void queries.invalidateQueries({ queryKey: [slug, "runs"] });
      void navigate(`/${slug}/runs/${started.id}`);
    },
  });
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        starting.mutate();
      }}
    >
      <label className="block">
        <span className="mb-1 block font-medium">Bridge</span>
        <select
          className="field w-full"
          value={name}
          onChange={(event) => {
            setName(event.target.value);
            setLanes([]);
          }}
        >
          {bridges.map((one) => (
            <option key={one.slug} value={one.slug}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <Labelled label="Orders by number" value={numbers} onChange={setNumbers} hint="Only these, whatever lanes are on." />
      {named.length ? null : (
        <>
          <fieldset>
            <legend className="font-medium">Lanes</legend>
            <p className="text-sm text-faded">None chosen: all that are on.</p>
            {on.map((lane) => (
              <label key={lane.kind} className="mr-3 inline-flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={lanes.includes(lane.kind)}
                  onChange={(event) =>
                    setLanes(event.target.checked ? [...lanes, lane.kind] : lanes.filter((one) => one !== lane.kind))
                  }
                />
                {lane.kind}
              </label>
            ))}
          </fieldset>
          <div className="grid grid-cols-2 gap-3">
            <Labelled label="Dated from" type="date" value={first} onChange={setFirst} />
            <Labelled label="Dated to" type="date" value={last} onChange={setLast} />
          </div>
        </>
      )}
      <button type="submit" className="button" disabled={starting.isPending || !name}>
        Start
      </button>
      {starting.isError ? <ProblemNote error={starting.error} /> : null}
    </form>
  );
}
