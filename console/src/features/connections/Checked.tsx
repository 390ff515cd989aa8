import type { Connection } from "../../api/types";
import { StateMark } from "../../parts/StateMark";
import { ago } from "../../parts/words";

/** What the end said of itself when it was last checked, and every right, one by one. */
export function Checked({ connection }: { connection: Connection }) {
  const said = connection.described;
  return (
    <section aria-labelledby="checked" className="sheet">
      <h2 id="checked" className="mb-2 flex items-baseline gap-3 text-lg font-semibold">
        Check{" "}
        {connection.checking ? (
          <span role="status" className="text-base font-normal text-faded">
            checking…
          </span>
        ) : (
          <StateMark state={connection.state} />
        )}
      </h2>
      {connection.state_text && !connection.checking ? <p className="mb-3 border-l-4 border-madder pl-3">{connection.state_text}</p> : null}
      {connection.mended.length ? (
        <p className="mb-3 border-l-4 border-ochre pl-3">What you pasted was mended: {connection.mended.join("; ")}.</p>
      ) : null}
      {said ? (
        <dl className="mb-3 grid grid-cols-[8rem_1fr] gap-y-1">
          <Fact name="Belongs to" value={said.company} />
          <Fact name="Currency" value={said.currency} />
          <Fact name="Time zone" value={said.time_zone} />
          <Fact name="Languages" value={said.languages.join(", ") || "–"} />
          <Fact name="Checked" value={connection.checked_at ? ago(connection.checked_at) : "never"} />
          <Fact name="Last contact" value={connection.last_contact_at ? ago(connection.last_contact_at) : "never"} />
        </dl>
      ) : null}
      {said?.permissions.length ? (
        <>
          <h3 className="font-medium">Rights</h3>
          <ul className="mt-1 space-y-1">
            {said.permissions.map((right) => (
              <li key={right.name} className={right.granted ? "" : "text-madder"}>
                <span aria-hidden="true">{right.granted ? "✓" : "✗"}</span>{" "}
                <span className="sr-only">{right.granted ? "given: " : "missing: "}</span>
                {right.name}
                {right.remedy ? <span className="block pl-5 text-sm text-faded">{right.remedy}</span> : null}
              </li>
            ))}
          </ul>
        </>
      ) : null}
    </section>
  );
}

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt className="text-faded">{name}</dt>
      <dd>{value}</dd>
    </>
  );
}
