import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { giveRole, invitationsQuery, invite, peopleQuery, removePerson, withdrawInvitation } from "../../api/people";
import type { Invitation, Member } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { ROLES } from "../../parts/roles";

/** Who may do what, who was invited, and inviting somebody. */
export function People() {
  const { slug, may } = useWorkspace();
  const found = useQuery(peopleQuery(slug));
  const invited = useQuery(invitationsQuery(slug));
  return (
    <section aria-labelledby="people" className="sheet">
      <h2 id="people" className="mb-2 text-lg font-semibold">
        People
      </h2>
      {found.isPending ? <Loading what="people" lines={3} /> : null}
      {found.isError ? <ProblemNote error={found.error} /> : null}
      <ul className="divide-y divide-line">
        {found.data?.items.map((one) => (
          <Person key={one.id} member={one} />
        ))}
        {invited.data?.items.map((one) => (
          <Invited key={one.id} invitation={one} />
        ))}
      </ul>
      {may("own") ? <Invite /> : null}
    </section>
  );
}

function Person({ member }: { member: Member }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const renew = () => queries.invalidateQueries({ queryKey: [slug] });
  const giving = useMutation({ mutationFn: (role: string) => giveRole(slug, { email: member.email, role }), onSettled: renew });
  const removing = useMutation({ mutationFn: () => removePerson(slug, member.id), onSuccess: renew });
  return (
    <li className="py-1.5">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <span>
          {member.name} <span className="text-sm text-faded">{member.email}</span>
        </span>
        {may("own") ? (
          <span className="flex items-center gap-3">
            <select
              className="field py-0.5"
              aria-label={`Role of ${member.email}`}
              value={member.role}
              disabled={giving.isPending}
              onChange={(event) => giving.mutate(event.target.value)}
            >
              {ROLES.map(([role, name]) => (
                <option key={role} value={role}>
                  {name}
                </option>
              ))}
            </select>
            <button
              type="button"
              className="link text-sm"
              aria-label={`Remove ${member.email}`}
              disabled={removing.isPending}
              onClick={() => removing.mutate()}
            >
              Remove
            </button>
          </span>
        ) : (
          <span>{ROLES.find(([role]) => role === member.role)?.[1]}</span>
        )}
      </div>
      {giving.isError ? <ProblemNote error={giving.error} /> : null}
      {removing.isError ? <ProblemNote error={removing.error} /> : null}
    </li>
  );
}

function Invited({ invitation }: { invitation: Invitation }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const withdrawing = useMutation({
    mutationFn: () => withdrawInvitation(slug, invitation.id),
    onSettled: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  return (
    <li className="flex flex-wrap justify-between gap-3 py-1.5">
      <span>
        {invitation.name} <span className="text-sm text-faded">{invitation.email}</span>
      </span>
      <span className="text-sm text-faded">
        invited until {day(invitation.ends_at)}
        {may("own") ? (
          <button
            type="button"
            className="link ml-3"
            aria-label={`Withdraw the invitation of ${invitation.email}`}
            disabled={withdrawing.isPending}
            onClick={() => withdrawing.mutate()}
          >
            Withdraw
          </button>
        ) : null}
      </span>
    </li>
  );
}

function Invite() {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const [given, setGiven] = useState({ email: "", name: "", role: "see" });
  const set = (field: keyof typeof given) => (value: string) => setGiven({ ...given, [field]: value });
  const inviting = useMutation({
    mutationFn: () => invite(slug, given),
    onSuccess: () => {
      setGiven({ email: "", name: "", role: "see" });
      void queries.invalidateQueries({ queryKey: [slug] });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    inviting.mutate();
  };
  return (
    <form onSubmit={submit} className="mt-4 space-y-3 border-t border-line pt-4">
      <h3 className="font-medium">Invite somebody</h3>
      <Labelled label="E-mail" type="email" value={given.email} required onChange={set("email")} />
      <Labelled label="Role" value={given.role} required onChange={set("role")} options={ROLES} />
      <Labelled label="Name" value={given.name} onChange={set("name")} />
      {inviting.isError ? <ProblemNote error={inviting.error} /> : null}
      <button type="submit" className="button-quiet" disabled={inviting.isPending}>
        Invite
      </button>
      {inviting.data ? (
        <p role="status" className="border-l-4 border-moss pl-3 text-sm">
          {inviting.data.link ? (
            <>
              Hand this link on to {inviting.data.email}; it works once, for a day:{" "}
              <code className="block break-all">{inviting.data.link}</code>
            </>
          ) : (
            `The invitation was mailed to ${inviting.data.email}.`
          )}
        </p>
      ) : null}
    </form>
  );
}
