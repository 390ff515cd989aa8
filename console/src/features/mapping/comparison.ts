/** A condition of one field, one comparison and a value: what most conditions are, and what can be chosen from lists. */
export interface Comparison {
  field: string;
  operator: string;
  value: string;
}

type Kind = "text" | "number" | "truth" | "tags";

/** What orders can be asked for, with the list of an end that its values come from. */
export const FIELDS: Record<string, { words: string; kind: Kind; offered?: string }> = {
  "order.channel": { words: "channel", kind: "text" },
  "order.country": { words: "country of delivery", kind: "text" },
  "order.currency": { words: "currency", kind: "text" },
  "order.status": { words: "status", kind: "text", offered: "order-statuses" },
  "order.customer_group": { words: "customer group", kind: "text", offered: "customer-groups" },
  "order.location": { words: "location", kind: "text", offered: "locations" },
  "order.payment_terms": { words: "payment terms", kind: "text" },
  "order.shipping_method": { words: "shipping method", kind: "text", offered: "shipping-methods" },
  "order.treatment": { words: "tax treatment", kind: "text" },
  "order.number": { words: "order number", kind: "text" },
  "order.dispatched_on": { words: "day of dispatch", kind: "text" },
  "order.total": { words: "total", kind: "number" },
  "order.tax_total": { words: "tax", kind: "number" },
  "order.shipping_total": { words: "carriage", kind: "number" },
  "order.discount_total": { words: "discounts", kind: "number" },
  "order.paid_total": { words: "paid", kind: "number" },
  "order.prices_include_tax": { words: "prices include tax", kind: "truth" },
  "order.tags": { words: "tags", kind: "tags" },
  "buyer.email": { words: "buyer's e-mail", kind: "text" },
  "buyer.company": { words: "buyer's company", kind: "text" },
  "buyer.tax_number": { words: "buyer's tax number", kind: "text" },
  "buyer.language": { words: "buyer's language", kind: "text", offered: "languages" },
  "buyer.region": { words: "buyer's region", kind: "text" },
  "buyer.is_guest": { words: "buyer is a guest", kind: "truth" },
};

const TEXT = { "==": "is", "!=": "is not", startsWith: "begins with", contains: "contains", empty: "is empty", filled: "is not empty" };
const NUMBER = { "==": "is", "!=": "is not", ">": "is more than", ">=": "is at least", "<": "is less than", "<=": "is at most" };
const TRUTH = { yes: "yes", no: "no" };
const TAGS = { has: "have", lacks: "do not have" };
const OPERATORS: Record<Kind, Record<string, string>> = { text: TEXT, number: NUMBER, truth: TRUTH, tags: TAGS };

/** The comparisons that a field takes, each with its words; the first is the usual one. */
export const operatorsOf = (field: string): Record<string, string> => OPERATORS[FIELDS[field]?.kind ?? "text"];

/** Whether a comparison needs a value beside it. */
export const needsValue = ({ operator }: Pick<Comparison, "operator">) => !["empty", "filled", "yes", "no"].includes(operator);

/** Whether it says all that it must. */
export function isWhole(one: Comparison): boolean {
  if (!FIELDS[one.field] || !(one.operator in operatorsOf(one.field))) return false;
  if (!needsValue(one)) return true;
  return FIELDS[one.field]?.kind === "number" ? /^-?\d{1,15}$/.test(one.value) : one.value !== "";
}

const quoted = (text: string) => JSON.stringify(text);

/** The expression (Common Expression Language). */
export function written({ field, operator, value }: Comparison): string {
  switch (operator) {
    case "empty":
      return `${field} == ""`;
    case "filled":
      return `${field} != ""`;
    case "yes":
      return field;
    case "no":
      return `!${field}`;
    case "has":
      return `${quoted(value)} in ${field}`;
    case "lacks":
      return `!(${quoted(value)} in ${field})`;
    case "startsWith":
    case "contains":
      return `${field}.${operator}(${quoted(value)})`;
    default:
      return `${field} ${operator} ${FIELDS[field]?.kind === "number" ? value : quoted(value)}`;
  }
}

const STRING = String.raw`"((?:[^"\\]|\\.)*)"`;
const FORMS: [RegExp, (parts: string[]) => Comparison][] = [
  [new RegExp(`^([a-z_.]+) (==|!=) ${STRING}$`), ([field = "", operator = "", value = ""]) =>
    value === "" ? { field, operator: operator === "==" ? "empty" : "filled", value } : { field, operator, value: unquoted(value) }],
  [/^([a-z_.]+) (==|!=|>=|<=|>|<) (-?\d{1,15})$/, ([field = "", operator = "", value = ""]) => ({ field, operator, value })],
  [new RegExp(`^([a-z_.]+)\\.(startsWith|contains)\\(${STRING}\\)$`), ([field = "", operator = "", value = ""]) => ({ field, operator, value: unquoted(value) })],
  [new RegExp(`^${STRING} in (order\\.tags)$`), ([value = "", field = ""]) => ({ field, operator: "has", value: unquoted(value) })],
  [new RegExp(`^!\\(${STRING} in (order\\.tags)\\)$`), ([value = "", field = ""]) => ({ field, operator: "lacks", value: unquoted(value) })],
  [/^(!?)([a-z_.]+)$/, ([not = "", field = ""]) => ({ field, operator: not ? "no" : "yes", value: "" })],
];

function unquoted(text: string): string {
  try {
    return JSON.parse(`"${text}"`) as string;
  } catch {
    return text;
  }
}

/** The comparison that an expression is; nothing where it is more than one, or is written another way. */
export function comparisonOf(expression: string): Comparison | null {
  for (const [form, made] of FORMS) {
    const found = form.exec(expression.trim());
    if (!found) continue;
    const one = made(found.slice(1));
    // Only what would be written back in the same words: nothing is changed by being looked at.
    if (isWhole(one) && written(one) === expression.trim()) return one;
  }
  return null;
}
