import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { EditorView } from "@codemirror/view";
import { tags } from "@lezer/highlight";

/** Ink on paper, by the colours of the page: they change with its theme. */
const look = EditorView.theme({
  "&": { color: "var(--color-ink)", backgroundColor: "var(--color-page)", height: "100%", fontSize: "14px" },
  "&.cm-focused": { outline: "2px solid var(--color-blue)", outlineOffset: "1px" },
  ".cm-scroller": { fontFamily: "ui-monospace, SFMono-Regular, Menlo, monospace", lineHeight: "1.7", overflow: "auto" },
  ".cm-content": { caretColor: "var(--color-ink)" },
  ".cm-gutters": { backgroundColor: "var(--color-wash)", color: "var(--color-faded)", borderRight: "1px solid var(--color-line)" },
  ".cm-activeLine": { backgroundColor: "color-mix(in srgb, var(--color-wash) 55%, transparent)" },
  ".cm-activeLineGutter": { backgroundColor: "var(--color-line)", color: "var(--color-ink)" },
  ".cm-selectionMatch, .cm-matchingBracket": { backgroundColor: "var(--color-glow)" },
  ".cm-tooltip": { backgroundColor: "var(--color-page)", color: "var(--color-ink)", border: "1px solid var(--color-faded)" },
  ".cm-tooltip-autocomplete > ul > li": { padding: "2px 8px" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": { backgroundColor: "var(--color-blue)", color: "var(--color-page)" },
  ".cm-completionDetail": { fontStyle: "normal", opacity: "0.85" },
  ".cm-completionInfo": { maxWidth: "22rem" },
  ".cm-said": { maxWidth: "26rem", padding: "6px 10px", fontFamily: "var(--font-sans)" },
  ".cm-said p": { margin: "0 0 4px" },
  ".cm-diagnostic": { fontFamily: "var(--font-sans)" },
  ".cm-diagnostic-error": { borderLeft: "4px solid var(--color-madder)" },
  ".cm-diagnostic-warning": { borderLeft: "4px solid var(--color-ochre)" },
  ".cm-lintRange-error": { backgroundImage: "none", textDecoration: "underline wavy var(--color-madder)" },
  ".cm-lintRange-warning": { backgroundImage: "none", textDecoration: "underline wavy var(--color-ochre)" },
  ".cm-lint-marker": { width: "0.8em" },
  ".cm-panels": { backgroundColor: "var(--color-wash)", color: "var(--color-ink)" },
  ".cm-textfield, .cm-button": { backgroundColor: "var(--color-page)", backgroundImage: "none", color: "var(--color-ink)", border: "1px solid var(--color-faded)" },
});

const ink = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--color-blue)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--color-moss)" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--color-ochre)" },
  { tag: [tags.comment, tags.lineComment], color: "var(--color-faded)", fontStyle: "italic" },
  { tag: [tags.punctuation, tags.separator, tags.brace, tags.squareBracket], color: "var(--color-faded)" },
]);

export const theme = [look, syntaxHighlighting(ink)];
