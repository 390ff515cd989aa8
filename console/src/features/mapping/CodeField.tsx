import { type KeyboardEvent, useId, useState } from "react";

import { useOffers } from "./offers";
import type { Offered } from "./schema";
import { useRules } from "./useEditing";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  offered?: Offered | undefined;
  /** What else may be meant: values that orders hold, of which no end has a list. */
  met?: string[];
  placeholder?: string;
  type?: string;
  wide?: boolean;
  /** Whether it is empty again once it was sent. */
  clears?: boolean;
}

/** A text that counts once the field is left; what an end has is offered while one types. */
export function CodeField({ label, value, onChange, offered, met = [], placeholder, type = "text", wide = false, clears = false }: Props) {
  const { readOnly } = useRules();
  const id = useId();
  // What was typed counts for as long as the value is the one that it was typed over.
  const [entry, setEntry] = useState({ text: value, over: value, sent: true });
  const typed = entry.over === value ? entry.text : value;
  const setTyped = (text: string) => setEntry({ text, over: value, sent: false });
  const known = useOffers(offered, typed === value ? "" : typed);
  const offers = [...known, ...met.filter((one) => !known.some((other) => other.code === one)).map((code) => ({ code, name: "" }))];
  const name = offers.find((one) => one.code === value)?.name;
  const done = () => {
    // By Enter, and then by leaving the field: it is meant once.
    if (entry.sent || typed.trim() === value) return;
    setEntry({ text: clears ? value : typed, over: value, sent: true });
    onChange(typed.trim());
  };
  const pressed = (event: KeyboardEvent) => {
    if (event.key === "Enter") {
      event.preventDefault();
      done();
    }
    if (event.key === "Escape") setTyped(value);
  };
  return (
    <>
      <input
        aria-label={label}
        className={`field ${wide ? "w-full" : "w-28 sm:w-44"}`}
        list={offers.length ? id : undefined}
        value={typed}
        type={type}
        placeholder={placeholder}
        readOnly={readOnly}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => setTyped(event.target.value)}
        onBlur={done}
        onKeyDown={pressed}
      />
      {offers.length ? (
        <datalist id={id}>
          {offers.map((one) => (
            <option key={one.code} value={one.code}>
              {one.name}
            </option>
          ))}
        </datalist>
      ) : null}
      {name ? <span className="ml-2 text-sm text-faded">{name}</span> : null}
    </>
  );
}
