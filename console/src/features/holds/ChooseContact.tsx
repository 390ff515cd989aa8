import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { bridgeQuery } from "../../api/bridges";
import { chooseContact, contactChoiceQuery } from "../../api/holds";
import type { ContactChoice } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { MendForm } from "./MendForm";
import { PickName } from "./PickName";

// Several contacts match, or none does; whoever is not named at all cannot be chosen for.
const CHOICES = ["CUST-E002", "CUST-E004"];

export const waitsForContact = (findings: { id: string }[]) => findings.some((one) => CHOICES.includes(one.id));

interface Props {
  crossing: number;
  bridge: string;
  done: (crossings: number[]) => void;
}

/** Which contact of the books a buyer is: chosen once, for all documents of that buyer that wait for it. */
export function ChooseContact({ crossing, bridge, done }: Props) {
  const { slug } = useWorkspace();
  const found = useQuery(contactChoiceQuery(slug, crossing));
  const between = useQuery(bridgeQuery(slug, bridge));
  if (found.isError) return <ProblemNote error={found.error} />;
  if (found.isPending || !between.data) return <Loading what="the contacts" lines={2} />;
  return <ChoiceForm key={crossing} crossing={crossing} choice={found.data} books={between.data.books} done={done} />;
}

interface FormProps {
  crossing: number;
  choice: ContactChoice;
  books: string;
  done: (crossings: number[]) => void;
}

function ChoiceForm({ crossing, choice, books, done }: FormProps) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const [contact, setContact] = useState("");
  const choosing = useMutation({
    mutationFn: () => chooseContact(slug, crossing, contact.trim()),
    onSuccess: ({ crossings }) => {
      done(crossings);
      void queries.invalidateQueries({ queryKey: [slug] });
    },
  });
  const told = [choice.company, choice.name, choice.email, choice.tax_number, choice.postcode].filter(Boolean);
  return (
    <MendForm submit={() => choosing.mutate()}>
      <fieldset className="space-y-1.5">
        <legend className="font-medium">
          Which contact is the buyer of {choice.number}: {told.join(" · ") || "no name given"}?
        </legend>
        {choice.offered.map((one) => (
          <label key={one.id} className="flex items-baseline gap-2">
            <input type="radio" name={`contact-${crossing}`} checked={contact === one.id} onChange={() => setContact(one.id)} />
            <span>
              {one.name || one.code}{" "}
              <span className="text-sm text-faded">
                {[one.code, one.email, one.postcode, one.reason].filter(Boolean).join(" · ")}
              </span>
            </span>
          </label>
        ))}
        {choice.offered.length ? null : (
          <p className="text-sm text-faded">
            {choice.loaded ? "No contact in the books is like this buyer." : "The contacts of the books were never loaded."}
          </p>
        )}
      </fieldset>
      <div className="flex flex-wrap items-end gap-3">
        <PickName
          label="Another contact"
          connection={books}
          kind="contacts"
          value={choice.offered.some((one) => one.id === contact) ? "" : contact}
          onChange={setContact}
        />
        <button type="submit" className="button" disabled={choosing.isPending || !contact.trim()}>
          {choosing.isPending ? "Choosing…" : "Choose, and let the buyer’s documents go"}
        </button>
      </div>
      {choosing.isError ? <ProblemNote error={choosing.error} /> : null}
    </MendForm>
  );
}
