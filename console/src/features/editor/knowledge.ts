import { type Offered, resolved, type Schema, WHOLE } from "../mapping/schema";

/** Everything that a value can be: each shape that its schema allows, with what it refers to. */
export function shapesAt(path: string[]): Schema[] {
  return path.reduce<Schema[]>((shapes, key) => shapes.flatMap((one) => below(one, key)).flatMap(every), every(WHOLE));
}

function every(given: Schema): Schema[] {
  const schema = resolved(given);
  return [schema, ...(schema.oneOf ?? []).flatMap((one) => every({ ...one, description: one.description ?? schema.description ?? "" }))];
}

function below(schema: Schema, key: string): Schema[] {
  if (key === "-") return schema.items ? [schema.items] : [];
  const named = schema.properties?.[key];
  if (named) return [named];
  return typeof schema.additionalProperties === "object" ? [schema.additionalProperties] : [];
}

export interface Known {
  name: string;
  meaning: string;
}

/** The keys that can stand in a group. */
export function keysAt(path: string[]): Known[] {
  const found = shapesAt(path).flatMap((shape) => Object.entries(shape.properties ?? {}));
  return unique(found.map(([name, schema]) => ({ name, meaning: resolved(schema).description ?? "" })));
}

/** The words that a value can be. */
export function wordsAt(path: string[]): Known[] {
  const words = shapesAt(path).flatMap((shape) => [
    ...(shape.enum ?? []),
    ...(shape.const === undefined ? [] : [String(shape.const as string | number)]),
    ...(shape.type === "boolean" ? ["true", "false"] : []),
  ]);
  return unique(words.map((name) => ({ name, meaning: "" })));
}

/** The list of an end that a value is from; or, of a table, that its names are from. */
export const offeredAt = (path: string[]): Offered | undefined => shapesAt(path).find((one) => one["x-offers"])?.["x-offers"];
export const namesOffered = (path: string[]): Offered | undefined => shapesAt(path).find((one) => one["x-keys"])?.["x-keys"];

/** Whether an expression stands at a path; in a template it stands in braces. */
export function expressionAt(path: string[]): "whole" | "in braces" | undefined {
  if (shapesAt(path).some((one) => one.$ref === "#/$defs/expression" || one.$ref === "#/$defs/condition")) return "whole";
  return path.at(-1) === "template" ? "in braces" : undefined;
}

/** What a key means, with its default and an example. */
export function meaningAt(path: string[]): string[] {
  const shape = shapesAt(path)[0];
  if (!shape?.description) return [];
  const shown = (value: unknown) => (typeof value === "string" ? value : JSON.stringify(value));
  return [
    shape.description,
    ...(shape.enum ? [`One of ${shape.enum.join(", ")}.`] : []),
    ...(shape.default === undefined ? [] : [`Unless said otherwise: ${shown(shape.default)}`]),
    ...(shape.examples?.length ? [`For example: ${shown(shape.examples[0])}`] : []),
  ];
}

function unique(known: Known[]): Known[] {
  return known.filter((one, place) => known.findIndex((other) => other.name === one.name) === place);
}
