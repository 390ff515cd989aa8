import { Labelled } from "./Labelled";

/** The code of the second factor. */
export function CodeField({ value, onChange }: { value: string; onChange: (value: string) => void }) {
  return (
    <Labelled
      label="Code of your authenticator app"
      autoComplete="one-time-code"
      value={value}
      required
      hint="Or a recovery code."
      onChange={onChange}
    />
  );
}
