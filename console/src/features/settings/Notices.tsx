import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { addNoticeRule, changeNoticeRule, noticeRulesQuery, type NoticeGiven, removeNoticeRule, testNoticeRule } from "../../api/notices";
import { peopleQuery } from "../../api/people";
import type { NoticeRule } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago } from "../../parts/words";

const KINDS: [string, string][] = [
  ["held", "documents held"],
  ["differs", "documents not as planned"],
  ["run failed", "a run that fails"],
  ["end", "an end that does not answer"],
  ["silent", "an end that should have called"],
  ["statement", "a bank statement that was refused"],
  ["account", "an account that does not prove"],
  ["untied day", "a day that tied and does so no longer"],
  ["closed month", "a change in a closed month"],
];

/** Who is told of what: by e-mail or by a signed call, at once or gathered. */
export function Notices() {
  const { slug, may } = useWorkspace();
  const found = useQuery(noticeRulesQuery(slug));
  return (
    <section aria-labelledby="notices" className="sheet">
      <h2 id="notices" className="mb-2 text-lg font-semibold">
        Notices
      </h2>
      {found.isPending ? <Loading what="the notices" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} /> : null}
      {found.data?.items.length === 0 ? <p className="text-faded">Nobody is told of anything yet.</p> : null}
      <ul className="divide-y divide-line">
        {found.data?.items.map((rule) => (
          <li key={rule.id} className="py-2">
            <RuleRow rule={rule} />
          </li>
        ))}
      </ul>
      {may("edit") ? <Add /> : null}
    </section>
  );
}

function inWords(rule: NoticeRule): string {
  const what = rule.kinds?.length ? rule.kinds.map((kind) => KINDS.find(([one]) => one === kind)?.[1] ?? kind).join(", ") : "everything";
  const where = [...(rule.bridges ?? []), ...(rule.lanes ?? [])].join(", ");
  const when = [
    rule.at_once ? "at once" : "",
    rule.digest_at ? `gathered at ${rule.digest_at}` : "",
    rule.summary_at ? `with a summary of the day before at ${rule.summary_at}` : "",
    rule.quiet_from ? `not from ${rule.quiet_from} to ${rule.quiet_until ?? ""}` : "",
  ].filter(Boolean);
  return `${what}${where ? ` of ${where}` : ""}, ${when.join(", ")} (${rule.time_zone ?? ""})`;
}

function useChanged() {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: noticeRulesQuery(slug).queryKey });
}

function RuleRow({ rule }: { rule: NoticeRule }) {
  const { slug, may } = useWorkspace();
  const changed = useChanged();
  const switching = useMutation({ mutationFn: () => changeNoticeRule(slug, rule.id, { on: !rule.on }), onSuccess: changed });
  const removing = useMutation({ mutationFn: () => removeNoticeRule(slug, rule.id), onSuccess: changed });
  const testing = useMutation({ mutationFn: () => testNoticeRule(slug, rule.id), onSuccess: changed });
  const name = rule.person || rule.address || "";
  return (
    <>
      <p className="font-medium break-all">
        {name} {rule.on ? null : <span className="font-normal text-faded">– off</span>}
      </p>
      <p className="text-sm first-letter:uppercase">{inWords(rule)}</p>
      {rule.last_failure ? <p className="border-l-4 border-madder pl-3 text-sm">{rule.last_failure}</p> : null}
      {rule.last_sent_at ? <p className="text-sm text-faded">Last sent {ago(rule.last_sent_at)}</p> : null}
      {may("edit") ? (
        <p className="mt-1 flex flex-wrap gap-3 text-sm">
          <button type="button" className="link" disabled={testing.isPending} aria-label={`Send a test: ${name}`} onClick={() => testing.mutate()}>
            {testing.isPending ? "Sending…" : "Send a test"}
          </button>
          <button type="button" className="link" aria-label={`Switch ${rule.on ? "off" : "on"}: ${name}`} onClick={() => switching.mutate()}>
            Switch {rule.on ? "off" : "on"}
          </button>
          <button type="button" className="link" aria-label={`Remove: ${name}`} onClick={() => removing.mutate()}>
            Remove
          </button>
        </p>
      ) : null}
      {testing.data ? (
        <p role="status" className={`border-l-4 pl-3 text-sm ${testing.data.sent ? "border-moss" : "border-madder"}`}>
          {testing.data.text}
        </p>
      ) : null}
      {[switching, removing, testing].map((one, place) => (one.isError ? <ProblemNote key={place} error={one.error} /> : null))}
    </>
  );
}

const EMPTY = { to: "", address: "", kinds: [] as string[], at: "at once", digest: "17:00", summary: "", quietFrom: "", quietUntil: "" };

function Add() {
  const { slug } = useWorkspace();
  const changed = useChanged();
  const people = useQuery(peopleQuery(slug));
  const [given, setGiven] = useState(EMPTY);
  const set = (what: Partial<typeof EMPTY>) => setGiven({ ...given, ...what });
  const adding = useMutation({
    mutationFn: () => {
      const rule: NoticeGiven = {
        ...(given.to === "call" ? { channel: "call", address: given.address } : { channel: "mail", person: given.to }),
        kinds: given.kinds as NonNullable<NoticeGiven["kinds"]>,
        at_once: given.at === "at once",
        digest_at: given.at === "gathered" ? given.digest : null,
        summary_at: given.summary || null,
        quiet_from: given.quietFrom || null,
        quiet_until: given.quietUntil || null,
      };
      return addNoticeRule(slug, rule);
    },
    onSuccess: () => {
      setGiven(EMPTY);
      void changed();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    adding.mutate();
  };
  const members = people.data?.items.map((one) => [one.email, `${one.name} (${one.email})`] as const) ?? [];
  return (
    <form className="mt-4 space-y-3 border-t border-line pt-4" onSubmit={submit}>
      <h3 className="font-sans font-medium">Tell somebody</h3>
      <Labelled
        label="Whom"
        value={given.to}
        required
        onChange={(to) => set({ to })}
        options={[...members, ["call", "a program, by a signed call"]]}
      />
      {given.to === "call" ? (
        <Labelled label="Address to call" value={given.address} required hint="Standard Webhooks, CloudEvents." onChange={(address) => set({ address })} />
      ) : null}
      <fieldset>
        <legend className="font-medium">Of what</legend>
        <p className="text-sm text-faded">None chosen: of everything.</p>
        {KINDS.map(([kind, name]) => (
          <label key={kind} className="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              checked={given.kinds.includes(kind)}
              onChange={(event) => set({ kinds: event.target.checked ? [...given.kinds, kind] : given.kinds.filter((one) => one !== kind) })}
            />
            {name}
          </label>
        ))}
      </fieldset>
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled
          label="When"
          value={given.at}
          required
          onChange={(at) => set({ at })}
          options={[["at once", "at once, many in one message"], ["gathered", "gathered, once a day"], ["never", "only the summary"]]}
        />
        {given.at === "gathered" ? <Labelled label="Gathered at" type="time" required value={given.digest} onChange={(digest) => set({ digest })} /> : null}
        <Labelled label="Summary of the day before at" type="time" value={given.summary} required={given.at === "never"} onChange={(summary) => set({ summary })} />
        <Labelled label="Quiet from" type="time" value={given.quietFrom} onChange={(quietFrom) => set({ quietFrom })} />
        <Labelled label="Quiet until" type="time" value={given.quietUntil} onChange={(quietUntil) => set({ quietUntil })} />
      </div>
      <button type="submit" className="button" disabled={adding.isPending || !given.to}>
        Tell them
      </button>
      {adding.isError ? <ProblemNote error={adding.error} /> : null}
      {adding.data?.secret ? (
        <p role="status" className="border-l-4 border-moss pl-3">
          The calls are signed with this secret, shown this once: <code className="break-all">{adding.data.secret}</code>
        </p>
      ) : null}
    </form>
  );
}
