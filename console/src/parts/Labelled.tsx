import { type ReactNode, useId } from "react";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  type?: string;
  required?: boolean;
  hint?: string;
  autoComplete?: string;
  options?: readonly (readonly [string, string])[];
}

/** A field of a form under its label; with `options`, one is chosen. */
export function Labelled({ label, value, onChange, type = "text", required = false, hint, autoComplete, options }: Props) {
  const id = useId();
  const told = hint ?? (required ? "" : "Optional.");
  const common = { id, required, value, className: "field w-full", "aria-describedby": told ? `${id}-hint` : undefined };
  return (
    <div>
      <label htmlFor={id} className="mb-1 block font-medium">
        {label}
      </label>
      {options ? (
        <select {...common} onChange={(event) => onChange(event.target.value)}>
          <option value="">choose…</option>
          {options.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      ) : (
        <input
          {...common}
          type={type}
          autoComplete={autoComplete ?? (type === "password" ? "new-password" : "off")}
          spellCheck={false}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {told ? (
        <span id={`${id}-hint`} className="mt-1 block text-sm text-faded">
          {told}
        </span>
      ) : null}
    </div>
  );
}

/** The title of a page with what can be done on it. */
export function PageHead({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mb-4 flex flex-wrap items-baseline justify-between gap-3">
      <h1 className="text-2xl font-semibold">{title}</h1>
      <div className="flex flex-wrap gap-3">{children}</div>
    </div>
  );
}
