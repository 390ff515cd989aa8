import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { cancelRequest, makeRequest, requestsKey } from "../../api/requests";
import type { PaymentRequest } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { useWorkspace } from "../../parts/useWorkspace";
import { causeInWords, counted, day } from "../../parts/words";

/** Requests, each with its link and how it stands with the buyer. */
export function RequestTable({ requests }: { requests: PaymentRequest[] }) {
  const { may } = useWorkspace();
  const [ending, setEnding] = useState<PaymentRequest | null>(null);
  const heads = ["Invoice", "Of", "Asked>", "Paid>", "Standing", "Link for the buyer", ...(may("operate") ? ["Otherwise"] : [])];
  return (
    <>
      {ending ? <Cancelling key={ending.id} request={ending} done={() => setEnding(null)} /> : null}
      <div className="overflow-x-auto">
        <table className="w-full">
          <Heads names={heads} />
          <tbody>
            {requests.map((one) => (
              <Row key={one.id} request={one} cancel={() => setEnding(one)} />
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Row({ request, cancel }: { request: PaymentRequest; cancel: () => void }) {
  const { slug, may } = useWorkspace();
  return (
    <tr className="border-b border-line align-baseline *:px-3 *:py-1.5">
      <td className="whitespace-nowrap">
        <Link className="link" to={`/${slug}/documents/${request.crossing}`}>
          {request.invoice}
        </Link>
      </td>
      <td className="whitespace-nowrap">{request.invoiced_on ? day(request.invoiced_on) : "–"}</td>
      <td className="text-right">
        <Amount value={request.amount} currency={request.currency} />
      </td>
      <td className="text-right">
        <Amount value={request.paid} />
      </td>
      <td>
        <Standing request={request} />
      </td>
      <td className="min-w-56">
        <a className="link break-all" href={request.link} target="_blank" rel="noreferrer">
          {request.link.replace(/^https?:\/\//, "")}
        </a>
        <span className="block text-xs text-faded">{request.opened ? `opened ${counted(request.opened, "time")}` : "not opened yet"}</span>
      </td>
      {may("operate") ? (
        <td className="whitespace-nowrap">
          <Otherwise request={request} cancel={cancel} />
        </td>
      ) : null}
    </tr>
  );
}

/** How it stands with the buyer; and what stands in its way, or who decided it by hand. */
function Standing({ request }: { request: PaymentRequest }) {
  const stopped = request.crossing_state === "held" || request.crossing_state === "differs";
  const hand = [request.wish === "cancelled" ? "by hand" : request.wish === "made" ? "made by hand" : "", request.note, request.wished_by];
  return (
    <>
      <StateMark state={request.standing} />
      {request.request ? (
        <span className="block text-xs text-faded">
          {/^https?:/.test(request.provider_link) ? (
            <a className="link" href={request.provider_link} target="_blank" rel="noreferrer">
              {request.request}
            </a>
          ) : (
            request.request
          )}{" "}
          at the provider
        </span>
      ) : null}
      {stopped ? <span className="block text-sm text-madder">{causeInWords(request.cause)}</span> : null}
      {request.wish ? <span className="block text-xs text-faded">{hand.filter(Boolean).join(", ")}</span> : null}
    </>
  );
}

function Otherwise({ request, cancel }: { request: PaymentRequest; cancel: () => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const again = useMutation({
    mutationFn: () => makeRequest(slug, { bridge: request.bridge, invoice: request.invoice }),
    onSuccess: () => queries.invalidateQueries({ queryKey: requestsKey(slug) }),
  });
  if (request.crossing_state === "waiting") return <span className="text-sm text-faded">on its way</span>;
  if (request.standing === "paid") return null;
  if (request.standing === "cancelled") {
    return (
      <>
        <button type="button" className="link text-sm" disabled={again.isPending} aria-label={`Ask again for ${request.invoice}`} onClick={() => again.mutate()}>
          Ask again
        </button>
        {again.isError ? <ProblemNote error={again.error} /> : null}
      </>
    );
  }
  return (
    <button type="button" className="link text-sm" aria-label={`Cancel the request of ${request.invoice}`} onClick={cancel}>
      Cancel
    </button>
  );
}

function Cancelling({ request, done }: { request: PaymentRequest; done: () => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const [note, setNote] = useState("");
  const cancelling = useMutation({
    mutationFn: () => cancelRequest(slug, request.id, note.trim()),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: requestsKey(slug) });
      done();
    },
  });
  return (
    <form
      aria-label={`Cancel the request of ${request.invoice}`}
      className="sheet mb-4 space-y-3 border-l-4 border-l-madder"
      onSubmit={(event) => {
        event.preventDefault();
        cancelling.mutate();
      }}
    >
      <p className="font-medium">{request.invoice} is asked for no more.</p>
      <p className="text-faded">Its link says so at once, and nothing can be paid at the provider any more. What was paid stays paid.</p>
      <Labelled label="Why" value={note} onChange={setNote} hint="For whoever looks later, such as: pays by bank transfer." />
      {cancelling.isError ? <ProblemNote error={cancelling.error} /> : null}
      <div className="flex gap-3">
        <button type="submit" className="button" disabled={cancelling.isPending}>
          Cancel the request
        </button>
        <button type="button" className="button-quiet" onClick={done}>
          Leave it as it is
        </button>
      </div>
    </form>
  );
}
