import { type ClipboardEvent, useState } from "react";

import type { MetValue } from "../../api/types";
import { amountText } from "../../parts/Amount";
import { counted } from "../../parts/words";
import { valueAt } from "../rehearsals/setting";
import { CodeField } from "./CodeField";
import { useMet } from "./offers";
import { escaped, resolved, type Schema } from "./schema";
import { useRules } from "./useEditing";

interface Props {
  at: string;
  label: string;
  schema: Schema;
  value: Record<string, string> | undefined;
}

/** A table from what is met to a code: rows to change, one to add, and two columns of a spreadsheet to paste. */
export function TableField({ at, label, schema, value = {} }: Props) {
  const { set, remove, readOnly, inherited } = useRules();
  const below = Object.entries((valueAt(inherited, at) ?? {}) as Record<string, unknown>).filter(([name, code]) => !(name in value) && typeof code === "string");
  const [key, setKey] = useState("");
  const met = useMet(at);
  const metAs = (name: string) => met.find((one) => one.value === name);
  const values = resolved((schema.additionalProperties as Schema | undefined) ?? {});
  const rows = Object.entries(value);
  const missing = met.filter((one) => one.standing === "unmapped" && !(one.value in value));
  const others = met.map((one) => one.value).filter((one) => one && !(one in value));
  const paste = (event: ClipboardEvent) => {
    const pasted = rowsOf(event.clipboardData.getData("text"));
    if (!pasted.length) return;
    event.preventDefault();
    set(at, (before: Record<string, string> | undefined) => ({ ...before, ...Object.fromEntries(pasted) }));
  };
  return (
    <table className="mt-1">
      <caption className="sr-only">{label}</caption>
      <tbody>
        {rows.map(([name, code]) => (
          <tr key={name} className="*:py-0.5 *:pr-3">
            <th scope="row" className="text-[15px] font-normal text-ink">
              {name}
              <HowOften met={metAs(name)} />
            </th>
            <td>
              <Code label={`${label}: ${name}`} value={code} schema={values} onChange={(said) => said ? set(`${at}/${escaped(name)}`, said) : remove(`${at}/${escaped(name)}`)} />
            </td>
            <td>
              {readOnly ? null : (
                <button type="button" className="link text-sm" aria-label={`Remove ${name} from ${label}`} onClick={() => remove(`${at}/${escaped(name)}`)}>
                  Remove
                </button>
              )}
            </td>
          </tr>
        ))}
        {below.map(([name, code]) => (
          <tr key={name} className="*:py-0.5 *:pr-3">
            <th scope="row" className="text-[15px] font-normal text-ink">
              {name}
            </th>
            <td>
              <Code label={`${label}: ${name}`} value="" placeholder={String(code)} schema={values} onChange={(said) => said && set(`${at}/${escaped(name)}`, said)} />
            </td>
            <td className="text-sm text-faded">inherited: {String(code)}</td>
          </tr>
        ))}
        {readOnly
          ? null
          : missing.map((one) => (
              <tr key={one.value} className="*:py-0.5 *:pr-3">
                <th scope="row" className="text-[15px] font-normal text-madder">
                  {one.value} <span className="ml-2 text-xs">{counted(one.unmapped, "order")}, no rule</span>
                </th>
                <td>
                  <Code label={`${label}: ${one.value}`} value="" schema={values} onChange={(said) => said && set(`${at}/${escaped(one.value)}`, said)} />
                </td>
                <td>
                  {one.suggestion ? (
                    <button type="button" className="link text-left text-sm" title={one.suggestion.why} onClick={() => set(`${at}/${escaped(one.value)}`, one.suggestion?.value)}>
                      Map {one.value} to {one.suggestion.value}
                    </button>
                  ) : null}
                </td>
              </tr>
            ))}
        {readOnly ? null : (
          <tr className="*:py-0.5 *:pr-3" onPaste={paste}>
            <td>
              <CodeField label={`A further row of ${label}`} value={key} offered={schema["x-keys"]} met={others} placeholder="add, or paste" onChange={setKey} />
            </td>
            <td>
              {key ? (
                <Code
                  label={`${label}: ${key}`}
                  value=""
                  schema={values}
                  onChange={(said) => {
                    if (said) set(`${at}/${escaped(key)}`, said);
                    setKey("");
                  }}
                />
              ) : null}
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

/** In how many past orders a value was met, and for how much. */
function HowOften({ met }: { met: MetValue | undefined }) {
  if (!met) return null;
  const sums = Object.entries(met.amounts).map(([currency, amount]) => `${amountText(amount)} ${currency}`);
  return <span className="block text-xs text-faded">{[counted(met.orders, "order"), ...sums].join(", ")}</span>;
}

interface CodeProps {
  label: string;
  value: string;
  placeholder?: string;
  schema: Schema;
  onChange: (value: string) => void;
}

/** The value of a row: a code, or one of a few words. */
function Code({ label, value, placeholder = "", schema, onChange }: CodeProps) {
  const { readOnly } = useRules();
  if (!schema.enum) return <CodeField label={label} value={value} placeholder={placeholder} offered={schema["x-offers"]} onChange={onChange} />;
  return (
    <select aria-label={label} className="field" value={value} disabled={readOnly} onChange={(event) => onChange(event.target.value)}>
      {value ? null : <option value="">choose</option>}
      {schema.enum.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </select>
  );
}

/** Rows of two columns, as a spreadsheet copies them; nothing where it is anything else. */
export function rowsOf(text: string): [string, string][] {
  const rows = text.split(/\r?\n/).filter((line) => line.trim());
  const cells = rows.map((line) => line.split("\t").map((cell) => cell.trim()));
  if (!cells.length || !cells.every((row) => row.length >= 2 && row[0] && row[1])) return [];
  return cells.map((row) => [row[0] ?? "", row[1] ?? ""]);
}
