import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { removeTimetable, setTimetable, triedTimetableQuery } from "../../api/bridges";
import type { Days, Table, TimetableRequest, WholeTimetable } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useSettled } from "../../parts/useSettled";
import { useWorkspace } from "../../parts/useWorkspace";
import { TimesFields } from "./TimesFields";

const FIRST: Table = { times: { every_minutes: 15, between: null, at: [], weekdays: [] }, seasons: [], pauses: [] };

interface Props {
  bridge: string;
  lane: string;
  now: WholeTimetable | null;
  /** The company's, which counts unless another is named. */
  timeZone: string;
  done: () => void;
}

/** A timetable in fields or in plain words, with its next ten times as one goes. */
export function TimetableForm({ bridge, lane, now, timeZone, done }: Props) {
  const { slug } = useWorkspace();
  const [table, setTable] = useState<Table>(now?.table ?? FIRST);
  const [words, setWords] = useState(now?.words.replace(/ \([^)]*\)$/, "") ?? "");
  const [inWords, setInWords] = useState(false);
  const [zone, setZone] = useState(now?.time_zone ?? timeZone);
  const given: TimetableRequest = inWords ? { words, time_zone: zone } : { table, time_zone: zone };
  const asked = useSettled(JSON.stringify(given));
  const tried = useQuery({
    ...triedTimetableQuery(slug, bridge, JSON.parse(asked) as TimetableRequest),
    enabled: !inWords || words.trim() !== "",
    placeholderData: (before) => before,
    retry: false,
  });
  const saving = useMutation({ mutationFn: () => setTimetable(slug, bridge, lane, given), onSuccess: done });
  const removing = useMutation({ mutationFn: () => removeTimetable(slug, bridge, lane), onSuccess: done });
  const turnTo = (toWords: boolean) => {
    // What was set in the one way is there in the other.
    if (tried.data && !tried.isError) {
      if (toWords) setWords(tried.data.words.replace(/ \([^)]*\)$/, ""));
      else setTable(tried.data.table);
    }
    setInWords(toWords);
  };
  return (
    <form
      className="mt-3 grid gap-5 border-t border-line pt-4 md:grid-cols-[1fr_16rem]"
      onSubmit={(event) => {
        event.preventDefault();
        saving.mutate();
      }}
    >
      <div className="space-y-4">
        <div className="flex gap-4" role="group" aria-label="How to say it">
          {([["In fields", false], ["In words", true]] as const).map(([name, way]) => (
            <button key={name} type="button" aria-pressed={inWords === way} className={inWords === way ? "font-medium underline" : "link"} onClick={() => turnTo(way)}>
              {name}
            </button>
          ))}
        </div>
        {inWords ? (
          <label className="block">
            <span className="mb-1 block font-medium">When it runs</span>
            <textarea className="field w-full" rows={4} value={words} onChange={(event) => setWords(event.target.value)} />
            <span className="block text-sm text-faded">
              Such as: every 15 minutes between 08:00 and 18:30 on weekdays; from 20 November 2026 to 31 December 2026 every 5 minutes; not
              on 25 December 2026
            </span>
          </label>
        ) : (
          <InFields table={table} change={setTable} />
        )}
        <label className="block">
          <span className="mb-1 block font-medium">By the clocks of</span>
          <input className="field" value={zone} spellCheck={false} onChange={(event) => setZone(event.target.value)} />
        </label>
        <div className="flex flex-wrap gap-3">
          <button type="submit" className="button" disabled={saving.isPending}>
            Save
          </button>
          <button type="button" className="button-quiet" onClick={done}>
            Cancel
          </button>
          {now ? (
            <button type="button" className="link" disabled={removing.isPending} onClick={() => removing.mutate()}>
              {lane ? "Run with the bridge again" : "Run by hand only"}
            </button>
          ) : null}
        </div>
        {saving.isError ? <ProblemNote error={saving.error} /> : null}
        {removing.isError ? <ProblemNote error={removing.error} /> : null}
      </div>
      <div aria-live="polite" className="text-sm">
        {tried.isError ? <ProblemNote error={tried.error} /> : null}
        {tried.data && !tried.isError ? (
          <>
            <p className="font-medium">{tried.data.words}</p>
            <Coming times={tried.data.coming} timeZone={tried.data.time_zone} />
          </>
        ) : null}
      </div>
    </form>
  );
}

/** The next times by the clocks of the timetable. */
export function Coming({ times, timeZone }: { times: string[]; timeZone: string }) {
  return (
    <>
      <p className="mt-2 text-faded">Next times ({timeZone})</p>
      <ol className="tabular-nums">
        {times.map((one) => (
          <li key={one}>
            {new Date(one).toLocaleString("en-GB", { weekday: "short", day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit", timeZone })}
          </li>
        ))}
      </ol>
    </>
  );
}

function InFields({ table, change }: { table: Table; change: (table: Table) => void }) {
  const seasons = table.seasons ?? [];
  const pauses = table.pauses ?? [];
  return (
    <>
      <TimesFields legend="Ordinary days" times={table.times} change={(times) => change({ ...table, times })} />
      {seasons.map((season, place) => {
        const put = (what: Partial<typeof season>) =>
          change({ ...table, seasons: seasons.map((one, here) => (here === place ? { ...one, ...what } : one)) });
        return (
          <div key={place} className="border-l-2 border-line pl-3">
            <FromTo
              label={`Season ${place + 1}`}
              days={season.days}
              change={(days) => put({ days })}
              remove={() => change({ ...table, seasons: seasons.filter((_, here) => here !== place) })}
            />
            <TimesFields legend={`Times of season ${place + 1}`} times={season.times} change={(times) => put({ times })} />
          </div>
        );
      })}
      {pauses.map((pause, place) => (
        <FromTo
          key={place}
          label={`Pause ${place + 1}`}
          days={pause}
          change={(days) => change({ ...table, pauses: pauses.map((one, here) => (here === place ? days : one)) })}
          remove={() => change({ ...table, pauses: pauses.filter((_, here) => here !== place) })}
        />
      ))}
      <div className="flex flex-wrap gap-4">
        {seasons.length < 10 ? (
          <button
            type="button"
            className="link text-sm"
            onClick={() => change({ ...table, seasons: [...seasons, { days: today(), times: { every_minutes: 5, between: null, at: [], weekdays: [] } }] })}
          >
            Other times for a season
          </button>
        ) : null}
        {pauses.length < 20 ? (
          <button type="button" className="link text-sm" onClick={() => change({ ...table, pauses: [...pauses, today()] })}>
            Days without any
          </button>
        ) : null}
      </div>
    </>
  );
}

function today(): Days {
  const iso = new Date().toISOString().slice(0, 10);
  return { first: iso, last: iso };
}

interface FromToProps {
  label: string;
  days: Days;
  change: (days: Days) => void;
  remove: () => void;
}

function FromTo({ label, days, change, remove }: FromToProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2" role="group" aria-label={label}>
      <span className="font-medium">{label}</span>
      <label>
        from{" "}
        <input type="date" required className="field" value={days.first} onChange={(event) => change({ ...days, first: event.target.value })} />
      </label>
      <label>
        to <input type="date" required className="field" value={days.last} onChange={(event) => change({ ...days, last: event.target.value })} />
      </label>
      <button type="button" className="link text-sm" onClick={remove}>
        Take it away
      </button>
    </div>
  );
}
