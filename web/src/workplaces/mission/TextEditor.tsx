// The Text view: the same text in a CodeMirror editor. The store owns the text and its history; the editor
// reports what was typed and follows when the text changes elsewhere.
import { autocompletion, type CompletionContext } from "@codemirror/autocomplete";
import { defaultKeymap, indentLess, insertNewlineAndIndent } from "@codemirror/commands";
import { indentUnit } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState, RangeSetBuilder } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  drawSelection,
  EditorView,
  highlightActiveLine,
  keymap,
  lineNumbers,
  ViewPlugin,
  type ViewUpdate,
} from "@codemirror/view";
import { lexLines, type Problem, RESERVED, STEP_FORMS } from "@giddy-pebble/core";
import { useEffect, useRef } from "react";
import { selectedLine, useMission } from "./state.js";
import { dispatch, redo, selectLine, undo } from "./store.js";

const MARKS = {
  verb: Decoration.mark({ class: "tok-verb" }),
  quantity: Decoration.mark({ class: "tok-quantity" }),
  text: Decoration.mark({ class: "tok-text" }),
  comment: Decoration.mark({ class: "tok-comment" }),
  name: Decoration.mark({ class: "tok-name" }),
};

function decorate(text: string): DecorationSet {
  const builder = new RangeSetBuilder<Decoration>();
  for (const line of lexLines(text, () => {})) {
    line.tokens.forEach((token, i) => {
      if (i === 0 && token.kind === "word") builder.add(token.start, token.end, MARKS.verb);
      else if (token.kind === "number") builder.add(token.start, token.end, MARKS.quantity);
      else if (token.kind === "text") builder.add(token.start, token.end, MARKS.text);
      else if (token.kind === "word" && !RESERVED.has(token.text)) builder.add(token.start, token.end, MARKS.name);
    });
    if (line.comment) builder.add(line.comment.start, line.comment.end, MARKS.comment);
  }
  return builder.finish();
}

const highlighting = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = decorate(view.state.doc.toString());
    }
    update(update: ViewUpdate) {
      if (update.docChanged) this.decorations = decorate(update.state.doc.toString());
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

const look = EditorView.theme({
  "&": { color: "var(--ink)", backgroundColor: "var(--sheet)" },
  ".cm-scroller": { fontFamily: "var(--mono)", lineHeight: "1.6" },
  ".cm-content": { caretColor: "var(--ink)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-gutters": { backgroundColor: "var(--sheet)", color: "var(--quiet)", border: "none" },
  ".cm-activeLine": { backgroundColor: "color-mix(in srgb, var(--water-soft) 55%, transparent)" },
  "&.cm-focused .cm-selectionBackground, .cm-selectionBackground": { backgroundColor: "var(--water-soft) !important" },
  ".cm-tooltip": {
    backgroundColor: "var(--sheet)",
    color: "var(--ink)",
    border: "1px solid var(--hair)",
    borderRadius: "8px",
  },
  ".cm-tooltip-autocomplete ul li[aria-selected]": { backgroundColor: "var(--water)", color: "var(--sheet)" },
  ".cm-diagnostic": { fontFamily: "var(--words)", fontSize: "12px" },
  ".cm-diagnosticAction": {
    backgroundColor: "var(--water)",
    color: "var(--sheet)",
    borderRadius: "999px",
    padding: "0 8px",
  },
  ".tok-verb": { fontWeight: "700" },
  ".tok-quantity": { color: "var(--water)" },
  ".tok-name": { color: "var(--water)" },
  ".tok-text": { color: "var(--amber-ink)" },
  ".tok-comment": { color: "var(--quiet)", fontStyle: "italic" },
});

function diagnostics(problems: readonly Problem[], length: number): Diagnostic[] {
  return problems.map((problem) => {
    const { mend } = problem;
    const from = Math.min(problem.start, length);
    return {
      from,
      to: Math.min(Math.max(problem.end, from), length),
      severity: problem.severity,
      message: problem.message,
      ...(mend
        ? {
            actions: [
              {
                name: mend.label,
                apply: (view: EditorView) =>
                  view.dispatch({
                    changes: { from: mend.start, to: Math.min(mend.end, view.state.doc.length), insert: mend.text },
                  }),
              },
            ],
          }
        : {}),
    };
  });
}

/** Step forms at the start of a line; values and readings elsewhere. */
function complete(context: CompletionContext) {
  const word = context.matchBefore(/[A-Za-z_][\w.]*/);
  if (!word && !context.explicit) return null;
  const from = word?.from ?? context.pos;
  const line = context.state.doc.lineAt(from);
  if (context.state.sliceDoc(line.from, from).trim() === "") {
    return { from, options: Object.entries(STEP_FORMS).map(([label, form]) => ({ label, detail: form, apply: form })) };
  }
  const symbols = useMission.getState().prepared?.check.symbols;
  const names = [
    "gyro.heading",
    "gyro.rate",
    "robot.travel",
    "robot.heading",
    "robot.stalled",
    "battery.voltage",
    "clock",
    "last.travel",
    "last.limited",
  ];
  return { from, options: [...(symbols?.globals.keys() ?? []), ...names].map((label) => ({ label })) };
}

/** The smallest stretch in which two texts differ. */
function difference(before: string, after: string): { from: number; to: number; insert: string } {
  let start = 0;
  const most = Math.min(before.length, after.length);
  while (start < most && before[start] === after[start]) start += 1;
  let end = 0;
  while (end < most - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end += 1;
  return { from: start, to: before.length - end, insert: after.slice(start, after.length - end) };
}

export function TextEditor() {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const text = useMission((state) => state.history.present.text);
  const problems = useMission((state) => state.problems);

  useEffect(() => {
    if (!host.current) return;
    const nonce = document.querySelector<HTMLElement>("meta[name=style-nonce]")?.nonce ?? "";
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: useMission.getState().history.present.text,
        extensions: [
          EditorView.cspNonce.of(nonce),
          look,
          lineNumbers(),
          drawSelection(),
          highlightActiveLine(),
          highlighting,
          lintGutter(),
          indentUnit.of("  "),
          EditorView.lineWrapping,
          autocompletion({ override: [complete] }),
          EditorView.contentAttributes.of({ "aria-label": "Mission as text", spellcheck: "false" }),
          keymap.of([
            { key: "Mod-z", run: always(undo), preventDefault: true },
            { key: "Mod-y", run: always(redo), preventDefault: true },
            { key: "Mod-Shift-z", run: always(redo), preventDefault: true },
            { key: "Enter", run: insertNewlineAndIndent },
            { key: "Shift-Tab", run: indentLess },
            ...defaultKeymap.filter((binding) => binding.key !== "Mod-Enter"),
          ]),
          EditorView.updateListener.of((update) => {
            const elsewhere = update.transactions.some((transaction) => transaction.isUserEvent("store"));
            if (update.docChanged && !elsewhere) report(update);
            else if (update.selectionSet && !update.docChanged)
              selectLine(update.state.doc.lineAt(update.state.selection.main.head).number - 1);
          }),
        ],
      }),
    });
    view.current = editor;
    const line = selectedLine(useMission.getState());
    if (line !== null && line < editor.state.doc.lines)
      editor.dispatch({ selection: { anchor: editor.state.doc.line(line + 1).from }, scrollIntoView: true });
    return () => {
      editor.destroy();
      view.current = null;
    };
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (!editor || editor.state.doc.toString() === text) return;
    editor.dispatch({ changes: difference(editor.state.doc.toString(), text), userEvent: "store" });
  }, [text]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of text moves the problems with it
  useEffect(() => {
    const editor = view.current;
    if (editor) editor.dispatch(setDiagnostics(editor.state, diagnostics(problems, editor.state.doc.length)));
  }, [problems, text]);

  return (
    <div className="textpane">
      <div ref={host} />
    </div>
  );
}

/** A key that is always taken, so that the browser's own undo stays away. */
function always(act: () => void): () => boolean {
  return () => {
    act();
    return true;
  };
}

function report(update: ViewUpdate): void {
  const head = update.state.selection.main.head;
  const line = update.state.doc.lineAt(head).number;
  dispatch({
    type: "edit",
    text: update.state.doc.toString(),
    label: "typing",
    selectLine: line - 1,
    typing: { key: `text/${line}`, at: Date.now() },
  });
}
