import { useState } from "react";

import { closeMonth, proposeMonth, reopenMonth, takeProposalBack } from "../../api/months";
import type { Month } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { NoteForm } from "./NoteForm";
import { useMonthAction } from "./useMonthAction";

/** Proposing, closing and opening again, each where it can be done by whoever looks. */
export function CloseMonth({ month }: { month: Month }) {
  const { may } = useWorkspace();
  const withdrawing = useMonthAction(month, takeProposalBack);
  if (month.state === "closed") {
    return may("own") ? (
      <WithNote key="reopen" month={month} opens="Open it again…" label="Why it is opened again" needed does="Open the month again" quiet act={reopenMonth} />
    ) : (
      <p className="text-sm text-faded">Only an owner opens it again.</p>
    );
  }
  const ready = month.over && month.left === 0;
  if (!ready) return null;
  const proposes = month.two_close && !month.proposal;
  return (
    <div className="flex flex-wrap items-start gap-3">
      {proposes && may("operate") ? (
        <WithNote key="propose" month={month} opens="Propose to close it…" label="What the other person should know" does="Propose" act={proposeMonth} />
      ) : null}
      {!proposes && may("publish") ? (
        <WithNote key="close" month={month} opens="Close the month…" label="A note beside the closing" does="Close the month" act={closeMonth} />
      ) : null}
      {month.proposal && may("operate") ? (
        <button type="button" className="button-quiet" disabled={withdrawing.isPending} onClick={() => withdrawing.mutate()}>
          Propose it no longer
        </button>
      ) : null}
      {withdrawing.isError ? <ProblemNote error={withdrawing.error} /> : null}
    </div>
  );
}

interface Asked {
  month: Month;
  opens: string;
  label: string;
  does: string;
  needed?: boolean;
  quiet?: boolean;
  act: (workspace: string, company: string, month: string, note: string) => Promise<Month>;
}

/** Something that is done with a note; the first press asks for it. */
function WithNote({ month, opens, label, does, needed = false, quiet = false, act }: Asked) {
  const [asked, setAsked] = useState(false);
  const doing = useMonthAction(month, (workspace, company, name, said: string) => act(workspace, company, name, said), () => setAsked(false));
  if (!asked) {
    return (
      <button type="button" className={quiet ? "button-quiet" : "button"} onClick={() => setAsked(true)}>
        {opens}
      </button>
    );
  }
  return (
    <NoteForm
      label={label}
      does={does}
      leaves="Not now"
      needed={needed}
      pending={doing.isPending}
      error={doing.error}
      act={(note) => doing.mutate(note)}
      close={() => setAsked(false)}
    />
  );
}
