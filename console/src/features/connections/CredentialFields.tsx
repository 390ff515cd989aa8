import type { Kind } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { fieldsOf } from "./form";

interface Props {
  kind: Kind;
  values: Record<string, string>;
  onChange: (values: Record<string, string>) => void;
  /** The names of what was entered before; what is left empty then stays as it was. */
  entered?: string[];
}

/** What it takes to open an end; secrets are written here and never shown again. */
export function CredentialFields({ kind, values, onChange, entered = [] }: Props) {
  return (
    <>
      {fieldsOf(kind).map((field) => (
        <Labelled
          key={field.name}
          label={field.title}
          type={field.secret ? "password" : "text"}
          required={field.required && !entered.includes(field.name)}
          value={values[field.name] ?? ""}
          onChange={(value) => onChange({ ...values, [field.name]: value })}
          {...(field.choices.length ? { options: field.choices.map((one) => [one, one] as const) } : {})}
          {...(entered.includes(field.name) ? { hint: "Entered; leave it empty to keep it." } : {})}
        />
      ))}
    </>
  );
}
