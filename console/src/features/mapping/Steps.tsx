import type { RuleStep } from "../../api/types";

/** The rules that were asked for a code, one after the other, and which of them answered; nothing where only one was. */
export function Steps({ what, steps }: { what: string; steps: RuleStep[] | undefined }) {
  if (!steps || steps.length < 2) return null;
  return (
    <details className="text-faded">
      <summary className="cursor-pointer">Why {what}</summary>
      <ol className="my-1 list-decimal pl-5">
        {steps.map((step) => (
          <li key={step.rule}>
            {step.by}
            {step.met ? ` “${step.met}”` : ""}: {step.gave ? <strong className="font-medium text-ink">{step.gave}</strong> : "no rule"}
          </li>
        ))}
      </ol>
    </details>
  );
}
