import { useState } from "react";

import { reportAddress } from "../../api/months";
import type { Month } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";
import { LANGUAGES } from "./languages";

const FORMS = [
  ["pdf", "PDF"],
  ["xlsx", "Spreadsheet"],
  ["json", "JSON"],
] as const;

/** The report of the month, to be handed over. */
export function Reports({ month, language }: { month: Month; language: string }) {
  const { slug } = useWorkspace();
  const [chosen, setChosen] = useState(language);
  return (
    <p className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
      <span className="font-medium">Report</span>
      {FORMS.map(([form, name]) => (
        <a key={form} className="link" download href={reportAddress(slug, month.company, month.month, form, chosen)}>
          {name}
        </a>
      ))}
      <label className="flex items-baseline gap-2">
        <span className="text-faded">in</span>
        <select className="field" aria-label="Language of the report" value={chosen} onChange={(event) => setChosen(event.target.value)}>
          {LANGUAGES.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {month.closing ? null : <span className="text-sm text-faded">of the figures as they are now: the month is not closed</span>}
    </p>
  );
}
