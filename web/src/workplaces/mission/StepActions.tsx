// The row of acts for the chosen steps: everything the keys can do, for a pointer too.
import { type Statement, TAIL_ORDER } from "@giddy-pebble/core";
import { type ReactNode, useState } from "react";
import { Typed } from "../../shared/controls.js";
import {
  chosenPlaces,
  commentChosen,
  copyChosen,
  disableChosen,
  duplicateChosen,
  indentChosen,
  outdentChosen,
  pasteClipboard,
  removeChosen,
  routineOfChosen,
  wrapChosen,
} from "../../shared/mission/choosing.js";
import { currentNames } from "../../shared/mission/names.js";
import { selectedPlace, useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";

type Asking = "routine" | "comment" | "wrap" | "more" | null;

export function StepActions() {
  const selected = useMission((state) => state.history.present.selected);
  const others = useMission((state) => state.chosen.size);
  const [asking, setAsking] = useState<Asking>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  if (selected === null) return null;
  const ask = (what: Asking) => {
    setTrouble(null);
    setAsking(asking === what ? null : what);
  };
  const done = () => setAsking(null);
  return (
    <fieldset className="stepacts" aria-label={others > 0 ? "Acts for the chosen steps" : "Acts for the step"}>
      <Act title="Ctrl+D" onClick={duplicateChosen}>
        Duplicate
      </Act>
      <Act expanded={asking === "wrap"} onClick={() => ask("wrap")}>
        Put into…
      </Act>
      <Act expanded={asking === "more"} onClick={() => ask("more")}>
        Add to it…
      </Act>
      <Act title="Alt+→" onClick={indentChosen} label="Move in">
        In
      </Act>
      <Act title="Alt+←" onClick={outdentChosen} label="Move out">
        Out
      </Act>
      <Act title="Ctrl+/" onClick={disableChosen} label="Switch off">
        Off
      </Act>
      <Act expanded={asking === "routine"} onClick={() => ask("routine")}>
        Routine
      </Act>
      <Act expanded={asking === "comment"} onClick={() => ask("comment")}>
        Comment
      </Act>
      <Act title="Ctrl+C" onClick={() => void copyChosen()}>
        Copy
      </Act>
      <Act title="Ctrl+V" onClick={() => void pasteClipboard()}>
        Paste
      </Act>
      <Act title="Delete" onClick={removeChosen}>
        Delete
      </Act>
      {asking === "wrap" && (
        <span className="choices">
          {(["repeat", "if", "during"] as const).map((how) => (
            <Act
              key={how}
              onClick={() => {
                wrapChosen(how);
                done();
              }}
            >
              {how}
            </Act>
          ))}
        </span>
      )}
      {asking === "more" && <Tails done={done} />}
      {asking === "routine" && (
        <Ask
          label="Name of the routine"
          act="Make it"
          take={(name) => {
            const why = routineOfChosen(name);
            setTrouble(why);
            if (why === null) done();
          }}
        />
      )}
      {asking === "comment" && (
        <Ask
          label="Comment"
          act="Add it"
          take={(words) => {
            commentChosen(words);
            done();
          }}
        />
      )}
      {trouble && (
        <span className="why" role="alert">
          {trouble}
        </span>
      )}
    </fieldset>
  );
}

function Act({
  onClick,
  children,
  title,
  label,
  expanded,
}: {
  onClick: () => void;
  children: ReactNode;
  title?: string;
  label?: string;
  expanded?: boolean;
}) {
  return (
    <button type="button" onClick={onClick} title={title} aria-label={label} aria-expanded={expanded}>
      {children}
    </button>
  );
}

function Ask({ label, act, take }: { label: string; act: string; take: (words: string) => void }) {
  const [words, setWords] = useState("");
  return (
    <form
      className="ask"
      onSubmit={(event) => {
        event.preventDefault();
        take(words.trim());
      }}
    >
      <Typed
        aria-label={label}
        placeholder={label}
        autoFocus
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <button type="submit" disabled={words.trim() === ""}>
        {act}
      </button>
    </form>
  );
}

/** A first value for each ending, with this robot's own readings. */
function tailForms(statement: Statement): string[] {
  const used = new Set("tails" in statement ? statement.tails.map((tail) => tail.word) : []);
  const names = currentNames();
  const touch = [...names.readings.keys()].find((name) => name.endsWith(".pressed"));
  const look = [...names.readings.keys()].find((name) => name.endsWith(".distance"));
  const line = [...names.readings.keys()].find((name) => name.endsWith(".crossing"));
  const conditions = [
    touch && `until ${touch}`,
    look && `until ${look} < 20 cm`,
    line && `until ${line}`,
    "until robot.travel > 60 cm",
  ];
  const turning = statement.type === "turn" || statement.type === "face" || statement.type === "move";
  const forms = [
    turning ? "at 90 deg/s" : "at 20 cm/s",
    ...conditions.filter((form): form is string => Boolean(form)),
    "for 2 s",
    "limit 10 s",
    "then keep",
  ];
  return forms.filter((form) => !used.has(form.split(" ")[0] as (typeof TAIL_ORDER)[number]));
}

/** Endings and speeds that can be added to the selected step. */
function Tails({ done }: { done: () => void }) {
  useMission((state) => state.history.present.text);
  const place = selectedPlace(useMission.getState()) ?? chosenPlaces()[0];
  if (!place || !("tails" in place.statement))
    return <span className="choices quiet">Nothing can be added to it.</span>;
  const { statement } = place;
  return (
    <span className="choices">
      {tailForms(statement).map((form) => (
        <Act
          key={form}
          onClick={() => {
            edit(addTail(statement, form), `adding ${form}`);
            done();
          }}
        >
          {form}
        </Act>
      ))}
      {(statement.type === "go" || statement.type === "slide") && statement.distance && (
        <Act
          onClick={() => {
            if (statement.distance)
              edit(
                { start: statement.distance.start - 1, end: statement.distance.end, insert: "" },
                "taking the length away",
              );
            done();
          }}
        >
          without a length
        </Act>
      )}
    </span>
  );
}

/** Puts a tail in where its order has it. */
function addTail(statement: Extract<Statement, { tails: unknown }>, form: string) {
  const rank = (word: string) => TAIL_ORDER.indexOf(word as (typeof TAIL_ORDER)[number]);
  const own = rank(form.split(" ")[0] ?? "");
  const next = statement.tails.find((tail) => rank(tail.word) > own);
  if (next) return { start: next.start, end: next.start, insert: `${form} ` };
  return { start: statement.end, end: statement.end, insert: ` ${form}` };
}
