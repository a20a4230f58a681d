/** CodeMirror in a shadow root: its styles are made while it runs, which our content policy allows nowhere else. */
import {
  autocompletion,
  type CompletionContext,
  closeBrackets,
  closeBracketsKeymap,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, HighlightStyle, indentOnInput, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, lintKeymap, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { Choices } from "./complete.ts";

export interface Mark {
  readonly from: number;
  readonly to: number;
  readonly level: "wrong" | "doubt";
  readonly text: string;
}

export interface CodeEditorProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  readonly marks: readonly Mark[];
  readonly choices: (text: string, at: number) => Choices | null;
  /** Lines: the fewest and the most that are shown. */
  readonly lines: readonly [number, number];
}

const LINE_PX = 19;

export default function CodeEditor({ label, value, onChange, marks, choices, lines: [least, most] }: CodeEditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  /** What the editor calls is what was given last: it is made only once. */
  const given = useRef({ onChange, choices });
  given.current = { onChange, choices };
  const first = useRef(value);

  useEffect(() => {
    if (!host.current) return;
    const root = host.current.shadowRoot ?? host.current.attachShadow({ mode: "open" });
    const complete = (context: CompletionContext) => {
      const found = given.current.choices(context.state.doc.toString(), context.pos);
      if (!found || (!context.explicit && found.from === context.pos)) return null;
      return {
        from: found.from,
        options: found.choices.map(({ text, label: shown = text, about, kind }) => ({
          label: shown,
          apply: text,
          type: kind === "field" ? "property" : "constant",
          ...(about ? { info: about } : {}),
        })),
      };
    };
    const made = new EditorView({
      parent: root,
      root,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          lineNumbers(),
          history(),
          drawSelection(),
          indentOnInput(),
          bracketMatching(),
          closeBrackets(),
          highlightActiveLine(),
          lintGutter(),
          yaml(),
          syntaxHighlighting(COLOURS),
          autocompletion({ override: [complete], icons: false }),
          // Tab indents; Escape and then Tab leaves the editor, as its label says.
          keymap.of([
            ...closeBracketsKeymap,
            ...defaultKeymap,
            ...historyKeymap,
            ...completionKeymap,
            ...lintKeymap,
            indentWithTab,
          ]),
          EditorView.contentAttributes.of({ "aria-label": label, spellcheck: "false", tabindex: "0" }),
          EditorView.lineWrapping,
          LOOK,
          EditorView.theme({
            ".cm-scroller": { minHeight: `${least * LINE_PX}px`, maxHeight: `${most * LINE_PX}px` },
          }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) given.current.onChange(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = made;
    return () => {
      view.current = null;
      made.destroy();
    };
  }, [label, least, most]);

  useEffect(() => {
    const made = view.current;
    first.current = value;
    if (!made || made.state.doc.toString() === value) return;
    made.dispatch({ changes: { from: 0, to: made.state.doc.length, insert: value } });
  }, [value]);

  useEffect(() => {
    const made = view.current;
    if (!made) return;
    const end = made.state.doc.length;
    const shown = marks.map(
      ({ from, to, level, text }): Diagnostic => ({
        from: Math.min(from, end),
        to: Math.min(to, end),
        severity: level === "wrong" ? "error" : "warning",
        message: text,
      }),
    );
    made.dispatch(setDiagnostics(made.state, shown));
  }, [marks]);

  return <div ref={host} className="min-w-0 rounded-key border border-soft bg-enclosure font-mono text-note" />;
}

const COLOURS = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: "var(--color-act)" },
  { tag: tags.propertyName, color: "var(--color-act)" },
  { tag: tags.comment, color: "var(--color-soft)", fontStyle: "italic" },
  { tag: [tags.keyword, tags.bool, tags.null], fontWeight: "600" },
]);

const LOOK = EditorView.theme({
  "&": { color: "var(--color-ink)", backgroundColor: "transparent" },
  "&.cm-focused": { outline: "2px solid var(--color-act)", outlineOffset: "1px" },
  ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: `${LINE_PX}px`, overflow: "auto" },
  ".cm-content": { caretColor: "var(--color-ink)" },
  ".cm-cursor": { borderLeftColor: "var(--color-ink)" },
  ".cm-gutters": {
    backgroundColor: "var(--color-sheet)",
    color: "var(--color-soft)",
    borderRight: "1px solid var(--color-hairline)",
  },
  ".cm-activeLine": { backgroundColor: "color-mix(in srgb, var(--color-act-wash) 45%, transparent)" },
  "&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground": {
    background: "var(--color-act-wash)",
  },
  ".cm-tooltip": {
    backgroundColor: "var(--color-sheet)",
    color: "var(--color-ink)",
    border: "1px solid var(--color-rule)",
    borderRadius: "3px",
    fontFamily: "var(--font-sans)",
  },
  ".cm-tooltip-autocomplete > ul > li": { padding: "3px 8px", fontFamily: "var(--font-mono)" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--color-act)",
    color: "var(--color-letters)",
  },
  ".cm-completionInfo": { maxWidth: "320px", padding: "6px 10px", lineHeight: "18px" },
  ".cm-diagnostic": { padding: "4px 10px", lineHeight: "18px" },
  ".cm-diagnostic-error": { borderLeft: "3px solid var(--color-wrong)" },
  ".cm-diagnostic-warning": { borderLeft: "3px solid var(--color-soft)" },
  ".cm-lint-marker": { width: "9px", height: "9px", marginTop: "5px", borderRadius: "50%" },
  ".cm-lint-marker-error": { content: "normal", backgroundColor: "var(--color-wrong)" },
  ".cm-lint-marker-warning": { content: "normal", border: "2px solid var(--color-soft)" },
  ".cm-lintRange-error": { backgroundImage: "none", borderBottom: "2px solid var(--color-wrong)" },
  ".cm-lintRange-warning": { backgroundImage: "none", borderBottom: "2px dotted var(--color-soft)" },
});
