import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { bridgeQuery, pauseBridge, timetableQuery } from "../../api/bridges";
import type { Bridge, Timetable } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { moment } from "../../parts/words";
import { TimetableForm } from "./TimetableForm";

/** When a bridge and each of its lanes run by themselves, and the switch that pauses it whatever these say. */
export function WhenItRuns({ bridge, timeZone }: { bridge: Bridge; timeZone: string }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [edited, edit] = useState<string | null>(null);
  const changed = () => queries.invalidateQueries({ queryKey: bridgeQuery(slug, bridge.slug).queryKey });
  const pausing = useMutation({ mutationFn: (paused: boolean) => pauseBridge(slug, bridge.slug, paused), onSuccess: changed });
  const rows: { lane: string; name: string; without: string; timetable: Timetable | null }[] = [
    { lane: "", name: "All lanes", without: "only when somebody starts it", timetable: bridge.timetable ?? null },
    ...bridge.lanes
      .filter((lane) => lane.on || lane.timetable)
      .map((lane) => ({ lane: lane.kind, name: lane.kind.replaceAll("_", " "), without: "whenever the bridge does", timetable: lane.timetable ?? null })),
  ];
  return (
    <section aria-labelledby="when" className="sheet mt-5">
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h2 id="when" className="text-lg font-semibold">
          When it runs
        </h2>
        {may("operate") ? (
          <button
            type="button"
            className="button-quiet"
            disabled={pausing.isPending}
            onClick={() => pausing.mutate(bridge.paused_at === null)}
          >
            {bridge.paused_at ? "Let it go on" : "Pause the bridge"}
          </button>
        ) : null}
      </div>
      {bridge.paused_at ? (
        <p role="status" className="mt-2 border-l-4 border-ochre pl-3">
          Paused since {moment(bridge.paused_at, timeZone)}: nothing is read or carried, whatever stands below. What it misses is made up
          for once it goes on.
        </p>
      ) : null}
      {pausing.isError ? <ProblemNote error={pausing.error} /> : null}
      <ul className="mt-2 divide-y divide-line">
        {rows.map(({ lane, name, without, timetable }) => (
          <li key={lane} className="py-2">
            <div className="grid gap-x-5 gap-y-1 md:grid-cols-[8rem_1fr_auto]">
              <h3 className="font-sans font-medium first-letter:uppercase">{name}</h3>
              <div>
                <p className="first-letter:uppercase">{timetable?.words ?? without}</p>
                {timetable ? (
                  <p className="text-sm text-faded">Next on {moment(timetable.next_at, timetable.time_zone)} ({timetable.time_zone})</p>
                ) : null}
              </div>
              {may("operate") && edited !== lane ? (
                <button type="button" className="link text-left" aria-label={`${changeIt(timetable, lane)}: ${name}`} onClick={() => edit(lane)}>
                  {changeIt(timetable, lane)}
                </button>
              ) : null}
            </div>
            {edited === lane ? (
              <Edited
                bridge={bridge.slug}
                lane={lane}
                there={timetable !== null}
                timeZone={timeZone}
                done={() => {
                  edit(null);
                  void changed();
                }}
              />
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  );
}

const changeIt = (timetable: Timetable | null, lane: string) => (timetable ? "Change" : lane ? "Run it apart" : "Set a timetable");

interface EditedProps {
  bridge: string;
  lane: string;
  there: boolean;
  timeZone: string;
  done: () => void;
}

function Edited({ bridge, lane, there, timeZone, done }: EditedProps) {
  const { slug } = useWorkspace();
  const now = useQuery({ ...timetableQuery(slug, bridge, lane), enabled: there, staleTime: 0, gcTime: 0 });
  if (there && now.isPending) return <Loading what="the timetable" lines={4} />;
  if (now.isError) return <ProblemNote error={now.error} again={() => void now.refetch()} />;
  return <TimetableForm bridge={bridge} lane={lane} now={there ? (now.data ?? null) : null} timeZone={timeZone} done={done} />;
}
