// The Text view: the same text in a CodeMirror editor. The store owns the text and its history; the editor
// reports what was typed and follows when the text changes elsewhere.

import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { defaultKeymap, indentLess, insertNewlineAndIndent } from "@codemirror/commands";
import { indentUnit } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { search, searchKeymap } from "@codemirror/search";
import { EditorState, RangeSetBuilder } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  drawSelection,
  EditorView,
  highlightActiveLine,
  hoverTooltip,
  keymap,
  lineNumbers,
  ViewPlugin,
  type ViewUpdate,
} from "@codemirror/view";
import {
  completeStep,
  formatMission,
  lexLines,
  type Problem,
  RESERVED,
  readingHelp,
  smallestChange,
  TOP_FORMS,
  WORD_HELP,
} from "@giddy-pebble/core";
import { useEffect, useRef } from "react";
import { cleanText } from "../../shared/cleanText.js";
import { currentNames } from "../../shared/mission/names.js";
import { selectedLine, useMission } from "../../shared/mission/state.js";
import { dispatch, redo, selectLine, undo } from "../../shared/mission/store.js";
import { smallEdit } from "../../shared/smallEdits.js";

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

/** The same completions as in Steps, for the line under the cursor; headers and tops by their first words. */
function complete(context: CompletionContext): CompletionResult | null {
  const word = context.matchBefore(/[A-Za-z_0-9][\w.[\]]*/);
  const line = context.state.doc.lineAt(context.pos);
  const before = context.state.sliceDoc(line.from, context.pos);
  if (!word && !context.explicit && !/\s$/.test(before)) return null;
  const typed = before.trimStart();
  if (typed === "" && !context.explicit) return null;
  const indent = before.length - typed.length;
  const from = line.from + indent;
  const names = currentNames();
  if (indent === 0 && line.number > 1 && !/\s/.test(typed)) {
    const options = TOPS.map(([label, form, info]) => ({ label, detail: form, apply: form, info }));
    return { from, options, update };
  }
  const options = completeStep(typed, names).map((offer) => ({
    label: offer.text,
    displayLabel: offer.label,
    ...(offer.help === "" ? {} : { info: offer.help }),
  }));
  return options.length > 0 ? { from, options, filter: false, update } : null;
}

/** What is offered follows each letter at once. Else for a tenth of a second an old list is shown, and who presses in it presses in vain. */
function update(
  _old: CompletionResult,
  _from: number,
  _to: number,
  context: CompletionContext,
): CompletionResult | null {
  return complete(context);
}

const TOPS = [
  ["set", "set cruise = 28 cm/s", "A named value, fixed before the robot starts."],
  ["routine", "routine corner(side: angle)", "Steps with a name, called from anywhere."],
  ["mission", "mission", "The steps that are run."],
  ["goal", "goal clock < 60 s", "What has to be true at the end."],
  ...Object.entries(TOP_FORMS)
    .filter(([word]) => word !== "set" && word !== "routine")
    .map(([word, form]) => [word, form, WORD_HELP[word] ?? ""] as const),
] as const;

/** What the word under the pointer means, with its unit or its value. */
function explain(view: EditorView, pos: number): { from: number; to: number; words: string } | null {
  const line = view.state.doc.lineAt(pos);
  const found = [...line.text.matchAll(/[A-Za-z_][\w]*(?:\[\d+\])?(?:\.[A-Za-z_]\w*)*/g)].find(
    (match) => line.from + match.index <= pos && line.from + match.index + match[0].length >= pos,
  );
  if (!found) return null;
  const [name] = found;
  const from = line.from + found.index;
  const { mission } = useMission.getState();
  const names = currentNames();
  const reading = names.readings.get(name);
  const value = mission.sets.find((set) => set.name.name === name);
  const words = reading
    ? readingHelp(name, reading)
    : value
      ? `${name} is ${mission.text.slice(value.value.start, value.value.end)}.`
      : names.routines.includes(name)
        ? "A routine of this mission."
        : names.parts.includes(name)
          ? "A part of this robot."
          : (WORD_HELP[name] ?? "");
  return words === "" ? null : { from, to: from + name.length, words };
}

const hovering = hoverTooltip((view, pos) => {
  const found = explain(view, pos);
  if (!found) return null;
  return {
    pos: found.from,
    end: found.to,
    above: true,
    create: () => {
      const dom = document.createElement("div");
      dom.className = "hoverhelp";
      dom.textContent = found.words;
      return { dom };
    },
  };
});

/** Leaving the text puts it into the canonical layout, when it parses. */
function formatOnLeave(): void {
  const { history } = useMission.getState();
  const { text } = history.present;
  const formatted = formatMission(text);
  if (formatted.ok && formatted.text !== text) dispatch({ type: "edit", text: formatted.text, label: "formatting" });
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
          hovering,
          search({ top: true }),
          EditorView.domEventHandlers({
            blur: (event) => {
              // Into the search field or a completion is not leaving.
              const to = event.relatedTarget;
              if (!(to instanceof Node && host.current?.contains(to))) formatOnLeave();
              return false;
            },
          }),
          EditorView.contentAttributes.of({ "aria-label": "Mission as text", spellcheck: "false" }),
          keymap.of([
            { key: "Mod-z", run: always(undo), preventDefault: true },
            { key: "Mod-y", run: always(redo), preventDefault: true },
            { key: "Mod-Shift-z", run: always(redo), preventDefault: true },
            { key: "Enter", run: insertNewlineAndIndent },
            { key: "Shift-Tab", run: indentLess },
            ...searchKeymap,
            ...defaultKeymap.filter((binding) => binding.key !== "Mod-Enter"),
          ]),
          // What is no text never gets into it.
          EditorState.transactionFilter.of((transaction) => {
            if (!transaction.docChanged) return transaction;
            const whole = transaction.newDoc.toString();
            const clean = cleanText(whole);
            if (clean === whole) return transaction;
            useMission.setState({ message: "Signs that are no text were left out of what was pasted." });
            return {
              changes: { from: 0, to: transaction.startState.doc.length, insert: clean },
              userEvent: "input.paste",
            };
          }),
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
    const change = smallestChange(editor.state.doc.toString(), text);
    if (change)
      editor.dispatch({ changes: { from: change.start, to: change.end, insert: change.insert }, userEvent: "store" });
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
    typing: smallEdit(`text/${line}`),
  });
}
