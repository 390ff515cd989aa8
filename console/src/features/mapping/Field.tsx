import type { ReactNode } from "react";

import { valueAt } from "../rehearsals/setting";
import { CodeField } from "./CodeField";
import { Expression } from "./Expression";
import { escaped, groupOf, keyInWords, resolved, type Schema, shapeOf } from "./schema";
import { TableField } from "./TableField";
import { useRules } from "./useEditing";

interface Props {
  at: string;
  label: string;
  schema: Schema;
  value: unknown;
  /** What holds where nothing is said here: that of a base, or the default. */
  otherwise: unknown;
}

/** One value of the rules, edited in the way that its shape asks for. */
export function Field(props: Props): ReactNode {
  const { set, remove } = useRules();
  const { at, label, value, otherwise } = props;
  const schema = resolved(props.schema);
  const said = (text: string) => (text ? set(at, text) : remove(at));
  switch (shapeOf(props.schema)) {
    case "choice":
      return <Choice {...props} schema={schema} />;
    case "number":
      return (
        <CodeField label={label} value={plain(value)} placeholder={plain(otherwise)} onChange={(text) => (Number.isFinite(Number(text)) && text ? set(at, Number(text)) : remove(at))} />
      );
    case "list":
    case "choices":
      return <List {...props} schema={schema} />;
    case "table":
      return <TableField at={at} label={label} schema={schema} value={value as Record<string, string> | undefined} />;
    case "group":
      return <Group {...props} schema={schema} />;
    case "groups":
      return <Groups {...props} schema={schema} />;
    case "code or group":
      return <CodeOrGroup {...props} schema={schema} />;
    case "later or group":
      return <LaterOrGroup {...props} schema={schema} />;
    case "condition":
      return <Condition {...props} />;
    default:
      return <CodeField label={label} value={plain(value)} placeholder={plain(otherwise)} offered={schema["x-offers"]} onChange={said} />;
  }
}

const plain = (value: unknown): string =>
  value === null || value === undefined ? "" : typeof value === "object" ? "" : String(value as string | number);
/** A value that can be shown in a line: a plain one, or a list of those. */
const plainly = (value: unknown): string => (Array.isArray(value) ? value.map(plain).filter(Boolean).join(", ") : plain(value));
const isGroup = (value: unknown): value is Record<string, unknown> => typeof value === "object" && value !== null && !Array.isArray(value);

function Choice({ at, label, schema, value, otherwise }: Props) {
  const { set, remove, readOnly } = useRules();
  const first = plain(otherwise) || plain(schema.default);
  return (
    <select aria-label={label} className="field max-w-full" value={plain(value)} disabled={readOnly} onChange={(event) => (event.target.value ? set(at, event.target.value) : remove(at))}>
      <option value="">{first ? `${first} (unless said otherwise)` : "not said"}</option>
      {(schema.enum ?? []).map((one) => (
        <option key={one} value={one}>
          {one}
        </option>
      ))}
    </select>
  );
}

/** Several texts, parted by commas. */
function List({ at, label, schema, value, otherwise }: Props) {
  const { set, remove } = useRules();
  const said = Array.isArray(value) ? (value as unknown[]).map(plain).join(", ") : plain(value);
  const before = Array.isArray(otherwise) ? (otherwise as unknown[]).map(plain).join(", ") : plain(otherwise);
  const listed = (text: string) => text.split(",").map((one) => one.trim()).filter(Boolean);
  const offered = resolved(schema.items ?? {})["x-offers"];
  return <CodeField wide label={label} value={said} placeholder={before || (offered ? "several, parted by commas" : "")} onChange={(text) => (text ? set(at, listed(text)) : remove(at))} />;
}

/** The keys of a group, those that are said first. */
export function Group({ at, label, schema, value, otherwise }: Props) {
  const { readOnly, inherited } = useRules();
  const mine = isGroup(value) ? value : {};
  const from = valueAt(inherited, at);
  const below = isGroup(otherwise) ? otherwise : {};
  const names = Object.keys(schema.properties ?? {});
  // What is inherited is said as well, only not here.
  const there = (group: Record<string, unknown>, name: string) => group[name] !== undefined && group[name] !== null;
  const said = names.filter((name) => there(mine, name) || (isGroup(from) && there(from, name)));
  const rest = names.filter((name) => !said.includes(name));
  const row = (name: string) => (
    <Row key={name} name={name} schema={(schema.properties ?? {})[name] ?? {}} at={`${at}/${escaped(name)}`} label={label ? `${label}, ${keyInWords(name)}` : keyInWords(name)} value={mine[name]} otherwise={below[name]} />
  );
  return (
    <div className="space-y-3">
      {said.map(row)}
      {rest.length && !readOnly ? (
        <details>
          <summary className="cursor-pointer text-sm text-faded">{said.length ? "More that can be said" : "What can be said"}: {rest.map(keyInWords).join(", ")}</summary>
          <div className="mt-3 space-y-3 border-l-2 border-line pl-4">{rest.map(row)}</div>
        </details>
      ) : null}
    </div>
  );
}

function Row({ name, schema, at, label, value, otherwise }: Props & { name: string }) {
  const { findings, inherited, built } = useRules();
  const below = plainly(valueAt(inherited, at));
  const others = built.filter((one) => valueAt(one.values, at) !== undefined).map((one) => one.bridge);
  const wrong = findings.filter((one) => one.at === at || (one.at.startsWith(`${at}/`) && shapeOf(schema) !== "group"));
  // Within a group of a section there is no room for a further column.
  const beside = at.split("/").length <= 3 ? "md:grid-cols-[11rem_1fr]" : "";
  return (
    <div className={`grid gap-x-4 gap-y-1 ${beside}`}>
      <div className={beside ? "font-medium" : "text-sm text-faded"} title={resolved(schema).description}>
        {keyInWords(name)}
      </div>
      <div className="min-w-0">
        <Field at={at} label={label} schema={schema} value={value} otherwise={otherwise} />
        {below ? <p className="text-sm text-faded">{value === undefined || value === null ? `inherited: ${below}` : `goes before ${below}, which it would inherit`}</p> : null}
        {others.length ? <p className="text-sm text-faded">{`A change here does not reach ${others.join(", ")}, which ${others.length === 1 ? "says its" : "say their"} own.`}</p> : null}
        {wrong.map((one) => (
          <p key={one.id + one.at} role="alert" className={`text-sm ${one.level === "error" ? "text-madder" : "text-ochre"}`}>
            {one.text}
          </p>
        ))}
      </div>
    </div>
  );
}

/** A code for all, or one with what goes before it: the steps stand in the order in which they are asked. */
function CodeOrGroup(props: Props) {
  const { at, label, schema, value, otherwise } = props;
  const { set, remove, readOnly } = useRules();
  const plainly = (schema.oneOf ?? []).map(resolved).find((one) => one.type === "string" || one.enum) ?? {};
  const group = groupOf(schema);
  const main = group.properties?.["fixed"] ? "fixed" : "default";
  if (isGroup(value)) return <Group {...props} schema={group} />;
  const before = isGroup(otherwise) ? (otherwise[main] ?? otherwise["from"]) : otherwise;
  return (
    <div className="flex flex-wrap items-center gap-3">
      {plainly.enum ? (
        <Choice {...props} schema={{ ...plainly, default: schema.default }} />
      ) : (
        <CodeField label={label} value={plain(value)} placeholder={plain(before)} offered={plainly["x-offers"]} onChange={(said) => (said ? set(at, said) : remove(at))} />
      )}
      {readOnly || !(plain(value) || plainly.enum) ? null : (
        <button type="button" className="link text-sm" aria-label={`${label}: ${main === "default" ? "with exceptions" : "look it up, or build it"}`} onClick={() => set(at, { [main]: plain(value) || plain(schema.default) })}>
          {main === "default" ? "with exceptions" : "look it up, or build it"}
        </button>
      )}
    </div>
  );
}

function LaterOrGroup(props: Props) {
  const { at, label, schema, value } = props;
  const { set, remove, readOnly } = useRules();
  const group = groupOf(schema);
  const later = plain((schema.oneOf ?? []).map(resolved).find((one) => one.const !== undefined)?.const);
  const start = (schema.examples ?? [])[0];
  const now = isGroup(value) ? "carried" : value === later ? later : "";
  return (
    <div className="space-y-3">
      <select aria-label={label} className="field" disabled={readOnly} value={now} onChange={(event) => (event.target.value === "carried" ? set(at, start) : event.target.value ? set(at, later) : remove(at))}>
        <option value="">{later} (unless said otherwise)</option>
        <option value={later}>{later}</option>
        <option value="carried">carried</option>
      </select>
      {isGroup(value) ? <Group {...props} schema={group} /> : null}
    </div>
  );
}

/** A list of groups, the first that fits counts. */
function Groups({ at, label, schema, value }: Props) {
  const { set, remove, readOnly } = useRules();
  const items = Array.isArray(value) ? (value as unknown[]) : [];
  const one = resolved(schema.items ?? {});
  const start = ((schema.examples ?? [])[0] as unknown[] | undefined)?.[0] ?? {};
  return (
    <div className="space-y-3">
      {items.map((item, place) => (
        <fieldset key={`${place}/${items.length}`} className="border border-line p-3">
          <legend className="px-1 text-sm text-faded">{place + 1}.</legend>
          <Group at={`${at}/${place}`} label={`${label} ${place + 1}`} schema={one} value={item} otherwise={undefined} />
          {readOnly ? null : (
            <button type="button" className="link mt-2 text-sm" onClick={() => remove(items.length === 1 ? at : `${at}/${place}`)}>
              Remove {label} {place + 1}
            </button>
          )}
        </fieldset>
      ))}
      {readOnly ? null : (
        <button type="button" className="button-quiet" onClick={() => set(items.length ? `${at}/-` : at, items.length ? start : [start])}>
          Add to {label}
        </button>
      )}
    </div>
  );
}

const MODES = ["all", "any", "none"];

/** An expression, or several of which all, any or none must be true. */
function Condition({ at, label, value }: Props) {
  const { set, remove, readOnly } = useRules();
  const mode = isGroup(value) ? (Object.keys(value)[0] ?? "all") : "";
  const parts: unknown[] = isGroup(value) ? ((value[mode] as unknown[] | undefined) ?? []) : [];
  const change = (chosen: string) => {
    set(at, (before: unknown) => {
      const listed = isGroup(before) ? (Object.values(before)[0] as unknown[]) : [plain(before) || "true"];
      return chosen ? { [chosen]: listed } : plain(listed[0]) || "true";
    });
  };
  return (
    <div className="space-y-2">
      {value === undefined && readOnly ? null : (
        <select aria-label={`How ${label} is made`} className="field" disabled={readOnly} value={mode} onChange={(event) => change(event.target.value)}>
          <option value="">one expression</option>
          {MODES.map((one) => (
            <option key={one} value={one}>
              {one} of these
            </option>
          ))}
        </select>
      )}
      {mode ? (
        <>
          {parts.map((part, place) =>
            isGroup(part) ? (
              <div key={place} className="border-l-2 border-line pl-3">
                <Condition at={`${at}/${mode}/${place}`} label={`${label} ${place + 1}`} schema={{}} value={part} otherwise={undefined} />
              </div>
            ) : (
              <div key={place}>
                <Expression label={`${label} ${place + 1}`} value={plain(part)} onChange={(said) => (said ? set(`${at}/${mode}/${place}`, said) : parts.length > 1 ? remove(`${at}/${mode}/${place}`) : remove(at))} />
              </div>
            ),
          )}
          {readOnly ? null : <Expression clears label={`A further part of ${label}`} value="" placeholder="and a further one" onChange={(said) => said && set(`${at}/${mode}/-`, said)} />}
        </>
      ) : (
        <Expression label={label} value={plain(value)} placeholder='such as order.country == "GB"' onChange={(said) => (said ? set(at, said) : remove(at))} />
      )}
    </div>
  );
}
