/** The form of an end, as its JSON Schema describes it. */
import type { Kind } from "../../api/types";

export interface CredentialField {
  name: string;
  title: string;
  secret: boolean;
  required: boolean;
  /** What can be chosen, where it is not typed. */
  choices: string[];
}

interface Schema {
  required?: string[];
  properties?: Record<string, { title?: string; writeOnly?: boolean; enum?: string[] }>;
}

export function fieldsOf(kind: Kind): CredentialField[] {
  const schema = kind.credentials_schema as Schema;
  return Object.entries(schema.properties ?? {}).map(([name, field]) => ({
    name,
    title: field.title ?? name,
    secret: field.writeOnly ?? false,
    required: schema.required?.includes(name) ?? false,
    choices: field.enum ?? [],
  }));
}

/** A short name for addresses: "Marrowby web shop" becomes "marrowby-web-shop". */
export function slugOf(name: string): string {
  const plain = name.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
  return plain.replace(/[^a-z0-9]+/g, "-").replace(/^-|-$/g, "").slice(0, 60) || "end";
}
