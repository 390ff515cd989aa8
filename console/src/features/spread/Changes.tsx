import type { SpreadAnswer } from "../../api/types";
import { moment } from "../../parts/words";

type Change = SpreadAnswer["changes"][number];
type Amendment = SpreadAnswer["amendments"][number];

/** What is another at the sales side, before and after. */
export function ChangesTable({ changes }: { changes: Change[] }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full">
        <thead className="border-b border-ink/60">
          <tr className="*:py-1 *:pr-4">
            <th scope="col">What</th>
            <th scope="col">Before</th>
            <th scope="col">After</th>
          </tr>
        </thead>
        <tbody>
          {changes.map((one, place) => (
            <tr key={place} className="border-b border-line align-top *:py-1.5 *:pr-4">
              <th scope="row" className="font-normal">
                {one.what}
              </th>
              <td>{one.before ?? "–"}</td>
              <td>{one.after ?? "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A change after something was posted, above the documents that made it good. */
export function AmendmentHead({ amendment, zone }: { amendment: Amendment; zone: string }) {
  if (amendment.put_right) {
    return (
      <p className="mb-6 border-l-4 border-ochre pl-3">
        <span className="text-base font-semibold" role="heading" aria-level={3}>
          Put right in the books
        </span>
        {amendment.at ? <span className="text-faded">, {moment(amendment.at, zone)}</span> : null}
      </p>
    );
  }
  return (
    <details className="mb-6 border-l-4 border-ochre pl-3">
      <summary className="cursor-pointer">
        <h3 className="inline text-base font-semibold">Change {amendment.number} at the sales side</h3>
        {amendment.at ? <span className="text-faded">, made good {moment(amendment.at, zone)}</span> : null}
      </summary>
      {amendment.changes.length ? (
        <ChangesTable changes={amendment.changes} />
      ) : (
        <p className="text-faded">What changed is not kept any more.</p>
      )}
    </details>
  );
}
