import { useId } from "react";

import type { TimesOfDay } from "../../api/types";

const WEEKDAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
/** Minutes that go evenly into a day: what people mostly ask for. */
const STEPS = [1, 2, 5, 10, 15, 20, 30, 60, 120, 180, 240, 360, 480, 720] as const;

interface Props {
  legend: string;
  times: TimesOfDay;
  change: (times: TimesOfDay) => void;
}

/** The times of a day in fields: every so many minutes, perhaps within hours, or at certain times; days of the week. */
export function TimesFields({ legend, times, change }: Props) {
  const id = useId();
  const every = typeof times.every_minutes === "number";
  const weekdays = times.weekdays?.length ? times.weekdays : [0, 1, 2, 3, 4, 5, 6];
  const toggle = (day: number, on: boolean) =>
    change({ ...times, weekdays: on ? [...weekdays, day].sort((a, b) => a - b) : weekdays.filter((one) => one !== day) });
  return (
    <fieldset className="space-y-2">
      <legend className="font-medium">{legend}</legend>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="flex items-center gap-2">
          <input
            type="radio"
            name={id}
            checked={every}
            onChange={() => change({ every_minutes: 15, between: null, at: [], weekdays: times.weekdays ?? [] })}
          />
          at intervals
        </label>
        <label className="flex items-center gap-2">
          <input
            type="radio"
            name={id}
            checked={!every}
            onChange={() => change({ every_minutes: null, between: null, at: ["18:30"], weekdays: times.weekdays ?? [] })}
          />
          at times of the day
        </label>
      </div>
      {every ? <Every times={times} change={change} /> : <At times={times} change={change} />}
      <div className="flex flex-wrap gap-x-3 gap-y-1" role="group" aria-label="Days of the week">
        {WEEKDAYS.map((name, day) => (
          <label key={name} className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={weekdays.includes(day)}
              disabled={weekdays.length === 1 && weekdays.includes(day)}
              onChange={(event) => toggle(day, event.target.checked)}
            />
            {name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function Every({ times, change }: Omit<Props, "legend">) {
  const minutes = times.every_minutes ?? 15;
  const hours = times.between ?? null;
  const steps = (STEPS as readonly number[]).includes(minutes) ? STEPS : [...STEPS, minutes];
  return (
    <div className="flex flex-wrap items-center gap-2">
      <label>
        every{" "}
        <select
          className="field"
          value={minutes}
          onChange={(event) => change({ ...times, every_minutes: Number(event.target.value) })}
        >
          {steps.map((one) => (
            <option key={one} value={one}>
              {one % 60 ? `${one} minutes` : one === 60 ? "hour" : `${one / 60} hours`}
            </option>
          ))}
        </select>
      </label>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          checked={hours !== null}
          onChange={(event) => change({ ...times, between: event.target.checked ? { first: "08:00", last: "18:00" } : null })}
        />
        only between
      </label>
      {hours ? (
        <>
          <Clock label="First time" value={hours.first} change={(first) => change({ ...times, between: { ...hours, first } })} />
          and
          <Clock label="Last time" value={hours.last} change={(last) => change({ ...times, between: { ...hours, last } })} />
        </>
      ) : null}
    </div>
  );
}

function At({ times, change }: Omit<Props, "legend">) {
  const at = times.at ?? [];
  const put = (place: number, value: string) => change({ ...times, at: at.map((one, here) => (here === place ? value : one)) });
  return (
    <div className="flex flex-wrap items-center gap-2">
      {at.map((one, place) => (
        <span key={place} className="flex items-center gap-1">
          <Clock label={`Time ${place + 1}`} value={one} change={(value) => put(place, value)} />
          {at.length > 1 ? (
            <button
              type="button"
              className="link text-sm"
              aria-label={`Take away ${one}`}
              onClick={() => change({ ...times, at: at.filter((_, here) => here !== place) })}
            >
              ×
            </button>
          ) : null}
        </span>
      ))}
      {at.length < 24 ? (
        <button type="button" className="link text-sm" onClick={() => change({ ...times, at: [...at, "12:00"] })}>
          One more
        </button>
      ) : null}
    </div>
  );
}

function Clock({ label, value, change }: { label: string; value: string; change: (value: string) => void }) {
  return (
    <input type="time" required aria-label={label} className="field" value={value} onChange={(event) => change(event.target.value)} />
  );
}
