import { type RefObject, useRef } from "react";

interface Props {
  area: RefObject<HTMLTextAreaElement | null>;
  text: string;
  onChange: (text: string) => void;
  readOnly: boolean;
  /** The lines that something is wrong with. */
  lines: (number | null | undefined)[];
}

/** The text of a rulebook with its line numbers; Tab leaves the field, as everywhere. */
export function RulesText({ area, text, onChange, readOnly, lines }: Props) {
  const gutter = useRef<HTMLDivElement>(null);
  const count = text.split("\n").length;
  const wrong = new Set(lines);
  return (
    <div className="flex h-[62vh] border border-faded bg-page font-mono text-sm leading-6">
      <div ref={gutter} aria-hidden="true" className="overflow-hidden border-r border-line bg-wash py-2 text-right text-faded">
        {Array.from({ length: count }, (_, place) => (
          <div key={place} className={`px-2 tabular-nums ${wrong.has(place + 1) ? "bg-madder text-page" : ""}`}>
            {place + 1}
          </div>
        ))}
      </div>
      <textarea
        ref={area}
        aria-label="Text of the rules"
        className="w-full resize-none overflow-auto bg-page px-3 py-2 whitespace-pre text-ink"
        wrap="off"
        spellCheck={false}
        readOnly={readOnly}
        value={text}
        onChange={(event) => onChange(event.target.value)}
        onScroll={(event) => gutter.current?.scrollTo(0, event.currentTarget.scrollTop)}
      />
    </div>
  );
}

/** Put the cursor on a line and bring it into sight. */
export function showLine(area: HTMLTextAreaElement | null, line: number) {
  if (!area) return;
  const lines = area.value.split("\n");
  const start = lines.slice(0, line - 1).reduce((sum, one) => sum + one.length + 1, 0);
  area.focus();
  area.setSelectionRange(start, start + (lines[line - 1]?.length ?? 0));
  area.scrollTop = (line - 4) * (area.scrollHeight / lines.length);
}
