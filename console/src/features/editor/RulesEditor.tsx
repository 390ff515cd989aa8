import { autocompletion, closeBrackets, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, indentOnInput, indentUnit } from "@codemirror/language";
import { type Diagnostic, lintGutter, lintKeymap, setDiagnostics } from "@codemirror/lint";
import { search, searchKeymap } from "@codemirror/search";
import { Annotation, EditorState, type Text } from "@codemirror/state";
import { EditorView, highlightActiveLine, highlightActiveLineGutter, keymap, lineNumbers } from "@codemirror/view";
import { type RefObject, useEffect, useImperativeHandle, useRef } from "react";

import type { Finding } from "../../api/types";
import { isOf } from "../mapping/subject";
import { completed, hover, type Names } from "./help";
import { theme } from "./theme";

export interface EditorProps {
  /** Brings a line into sight, with the cursor on it. */
  handle: RefObject<EditorHandle | null>;
  text: string;
  onChange: (text: string) => void;
  readOnly: boolean;
  findings: Finding[];
  /** What the text is called in them. */
  file: string;
  names: Names;
}

export interface EditorHandle {
  showLine: (line: number) => void;
}

// A change that came from outside is not told to where it came from.
const FromOutside = Annotation.define<boolean>();

/** The text of rules: keys, codes and names are offered as one types, and what is wrong is marked in its place. */
export function RulesEditor({ handle, text, onChange, readOnly, findings, file, names }: EditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const typed = useRef<string[]>([]);
  const latest = useRef({ onChange, names, text, readOnly });
  useEffect(() => {
    latest.current = { onChange, names, text, readOnly };
  });
  useEffect(() => {
    if (!host.current) return;
    // In a tree of its own the editor brings its styles as style sheets, which the content policy allows; as an element
    // of the page it would not.
    const root = host.current.shadowRoot ?? host.current.attachShadow({ mode: "open" });
    const change = (changed: string) => {
      typed.current.push(changed);
      latest.current.onChange(changed);
    };
    const asked: Names = (offered, typed) => latest.current.names(offered, typed);
    const made = new EditorView({
      parent: root,
      root,
      state: EditorState.create({ doc: latest.current.text, extensions: extensions(asked, latest.current.readOnly, change) }),
    });
    view.current = made;
    return () => {
      view.current = null;
      made.destroy();
    };
  }, []);
  useImperativeHandle(handle, () => ({
    showLine: (line) => {
      if (view.current) showLine(view.current, line);
    },
  }));
  useEffect(() => {
    const there = view.current;
    // What was typed comes back a moment later, when more may have been typed already.
    const echoed = typed.current.indexOf(text);
    typed.current = typed.current.slice(echoed + 1);
    if (!there || echoed >= 0 || there.state.doc.toString() === text) return;
    there.dispatch({ changes: { from: 0, to: there.state.doc.length, insert: text }, annotations: FromOutside.of(true) });
  }, [text]);
  useEffect(() => {
    const there = view.current;
    if (there) there.dispatch(setDiagnostics(there.state, findings.filter((one) => isOf(one, file)).flatMap((one) => marked(one, there.state.doc))));
  }, [findings, file, text]);
  return <div ref={host} className="h-[62vh] border border-faded bg-page" />;
}

function extensions(names: Names, readOnly: boolean, changed: (text: string) => void) {
  return [
    lineNumbers(),
    lintGutter(),
    history(),
    highlightActiveLine(),
    highlightActiveLineGutter(),
    indentOnInput(),
    indentUnit.of("  "),
    bracketMatching(),
    closeBrackets(),
    search({ top: true }),
    yaml(),
    autocompletion({ icons: false, override: [(context) => completed(context, names)] }),
    hover(names),
    // Tab leaves the text, as it leaves every field.
    keymap.of([...completionKeymap, ...lintKeymap, ...searchKeymap, ...historyKeymap, ...defaultKeymap]),
    EditorState.readOnly.of(readOnly),
    EditorView.contentAttributes.of({ "aria-label": "Text of the rules", tabindex: "0", ...(readOnly ? { "aria-readonly": "true" } : {}), spellcheck: "false" }),
    EditorView.updateListener.of((update) => {
      const outside = update.transactions.some((one) => one.annotation(FromOutside));
      if (update.docChanged && !outside) changed(update.state.doc.toString());
    }),
    theme,
  ];
}

/** What is wrong, on its line. */
function marked(finding: Finding, document: Text): Diagnostic[] {
  if (!finding.line || finding.line > document.lines || !finding.text.trim()) return [];
  const line = document.line(finding.line);
  const indent = line.text.length - line.text.trimStart().length;
  const severity = finding.level === "error" ? "error" : finding.level === "warning" ? "warning" : "info";
  return [{ from: line.from + indent, to: line.to, severity, message: [finding.text, finding.hint].filter(Boolean).join(" ") }];
}

function showLine(view: EditorView, number: number) {
  if (number > view.state.doc.lines) return;
  const line = view.state.doc.line(number);
  view.focus();
  view.dispatch({ selection: { anchor: line.from, head: line.to }, effects: EditorView.scrollIntoView(line.from, { y: "center" }) });
}
