import rulebook from "../../../../docs/formats/rulebook-1.schema.json";

export interface Offered {
  end: "books" | "source";
  kind: string;
  types?: string[];
}

/** As much of JSON Schema as the rulebook's own uses. */
export interface Schema {
  $ref?: string;
  description?: string;
  type?: string | string[];
  enum?: string[];
  const?: unknown;
  default?: unknown;
  examples?: unknown[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  items?: Schema;
  oneOf?: Schema[];
  required?: string[];
  format?: string;
  "x-offers"?: Offered;
  "x-keys"?: Offered;
  /** What expressions may name: of an order, and of a line of it besides. */
  "x-names"?: { order: string[]; line: string[] };
}

export const WHOLE = rulebook as unknown as Schema & { $defs: Record<string, Schema> };

/** The sections of a rulebook, in the order of the work. */
export const SECTIONS = Object.entries(WHOLE.properties ?? {}).filter(
  ([name]) => !["rulebook", "name", "based_on"].includes(name),
);

/** A schema with what it refers to. */
export function resolved(schema: Schema): Schema {
  const name = schema.$ref?.split("/").at(-1);
  const there = name ? WHOLE.$defs[name] : undefined;
  return there ? { ...resolved(there), ...schema } : schema;
}

export type Shape = "choice" | "text" | "number" | "list" | "choices" | "groups" | "group" | "table" | "code or group" | "later or group" | "condition";

/** How a value is edited. */
export function shapeOf(given: Schema): Shape {
  const schema = resolved(given);
  if (schema.enum) return "choice";
  if (schema.oneOf) return shapeOfOptions(schema);
  const type = Array.isArray(schema.type) ? schema.type[0] : schema.type;
  if (type === "number" || type === "integer") return "number";
  if (type === "array") return resolved(schema.items ?? {}).properties ? "groups" : "list";
  if (type !== "object") return "text";
  return schema.properties ? "group" : "table";
}

function shapeOfOptions(schema: Schema): Shape {
  if (schema.$ref === "#/$defs/condition") return "condition";
  const [first, second] = (schema.oneOf ?? []).map(resolved);
  if (first?.enum && second?.type === "array") return "choices";
  return first?.const === undefined ? "code or group" : "later or group";
}

/** The group among the shapes that a value can have. */
export const groupOf = (schema: Schema): Schema => resolved((resolved(schema).oneOf ?? []).find((one) => resolved(one).properties) ?? {});

/** A key as people read it: `by_product_type` is "by product type". */
export const keyInWords = (name: string) => name.replaceAll("_", " ");

export const escaped = (name: string) => name.replaceAll("~", "~0").replaceAll("/", "~1");
