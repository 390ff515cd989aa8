import type { Completion, CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import { hoverTooltip } from "@codemirror/view";

import type { Offer } from "../mapping/offers";
import { type Offered, WHOLE } from "../mapping/schema";
import { expressionAt, keysAt, meaningAt, namesOffered, offeredAt, wordsAt } from "./knowledge";
import { type Place, placeAt } from "./place";

/** The names of an end that fit what was typed. */
export type Names = (offered: Offered, typed: string) => Promise<Offer[]>;

const EXPRESSION_WORD = /[\w.]*$/;
// A code of digits must stand in quotes, or it would be read as a number.
const needsQuotes = (code: string) => /^[\d.+-]/.test(code) || /[:#{}[\],&*!|>'"%@`]/.test(code) || /^(true|false|null|yes|no|on|off|~)$/i.test(code);
const written = (code: string) => (needsQuotes(code) ? JSON.stringify(code) : code);

/** What could stand where one types: keys with what they mean, words, codes of either end, names in expressions. */
export async function completed(context: CompletionContext, names: Names): Promise<CompletionResult | null> {
  const text = context.state.doc.toString();
  const place = placeAt(text, context.pos);
  if (place.at === "key") return result(place.from, await keys(place, names));
  const expression = expressionAt(place.path);
  const offered = offeredAt(place.path);
  if (expression && !offered) return named(context, place, expression);
  // Within quotes a code stands as it is; without them it brings those that it needs.
  const quote = /["']/.test(text[place.from] ?? "") ? 1 : 0;
  const words = wordsAt(place.path).map((one): Completion => ({ label: one.name, type: "enum" }));
  const codes = offered ? await names(offered, place.word) : [];
  return result(place.from + quote, [...words, ...codes.map((one) => ({ ...code(one), ...(quote ? { apply: one.code } : {}) }))]);
}

async function keys(place: Place, names: Names): Promise<Completion[]> {
  const known = keysAt(place.path).map((one): Completion => ({ label: one.name, apply: `${one.name}: `, info: one.meaning, type: "property" }));
  const offered = namesOffered(place.path);
  const rows = offered ? await names(offered, place.word) : [];
  return [...known, ...rows.map((one) => ({ ...code(one), apply: `${written(one.code)}: ` }))];
}

const code = (offer: Offer): Completion => ({ label: offer.code, apply: written(offer.code), detail: offer.name, type: "constant" });

function named(context: CompletionContext, place: Place, how: "whole" | "in braces"): CompletionResult | null {
  if (how === "in braces" && !/\{[^}]*$/.test(place.word)) return null;
  const typed = context.matchBefore(EXPRESSION_WORD);
  const all = WHOLE.$defs["expression"]?.["x-names"];
  // In lines and dimensions the line is seen as well.
  const ofLine = place.path[0] === "dimensions" || place.path[1]?.startsWith("line_");
  const seen = [...(all?.order ?? []), ...(ofLine ? (all?.line ?? []) : [])];
  return result(typed?.from ?? context.pos, seen.map((label) => ({ label, type: "variable" })));
}

function result(from: number, options: Completion[]): CompletionResult | null {
  return options.length ? { from, options, validFor: /^[\w. -]*$/ } : null;
}

/** What stands under the pointer: what a key means, or what a code is called. */
export const hover = (names: Names) =>
  hoverTooltip(async (view, position) => {
    const line = view.state.doc.lineAt(position);
    // To the end of the word, so that the whole of it is known.
    const rest = /^[\w-]*["']?:?\s?/.exec(line.text.slice(position - line.from))?.[0].length ?? 0;
    const place = placeAt(view.state.doc.toString(), Math.min(position + rest, line.to));
    const said = meaningAt(place.path);
    const offered = offeredAt(place.path);
    const found = offered && place.word ? (await names(offered, place.word)).find((one) => one.code === place.word) : undefined;
    const texts = found?.name ? [`${found.code}: ${found.name}`, ...said] : said;
    if (!texts.length || !place.path.length) return null;
    return { pos: line.from + (line.text.length - line.text.trimStart().length), end: line.to, above: true, create: () => ({ dom: paragraphs(texts) }) };
  });

function paragraphs(texts: string[]): HTMLElement {
  const box = document.createElement("div");
  box.className = "cm-said";
  for (const text of texts) box.appendChild(Object.assign(document.createElement("p"), { textContent: text }));
  return box;
}
