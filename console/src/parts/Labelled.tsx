import type { ReactNode } from "react";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  type?: string;
  required?: boolean;
  hint?: string;
  options?: readonly (readonly [string, string])[];
}

/** A field of a form under its label; with `options`, one is chosen. */
export function Labelled({ label, value, onChange, type = "text", required = false, hint, options }: Props) {
  const mark = required ? null : <span className="font-normal text-faded"> (may be left empty)</span>;
  return (
    <label className="block">
      <span className="mb-1 block font-medium">
        {label}
        {mark}
      </span>
      {options ? (
        <select className="field w-full" required={required} value={value} onChange={(event) => onChange(event.target.value)}>
          <option value="">choose…</option>
          {options.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      ) : (
        <input
          className="field w-full"
          type={type}
          required={required}
          autoComplete={type === "password" ? "new-password" : "off"}
          spellCheck={false}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {hint ? <span className="mt-1 block text-sm text-faded">{hint}</span> : null}
    </label>
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
