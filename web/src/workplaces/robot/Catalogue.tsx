// Add a part: generic parts with typical values, by kind; typing narrows the list.
import { addPart, CATALOGUE, type CatalogueList } from "@giddy-pebble/core";
import { useEffect, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { Panel } from "../../shared/Panel.js";
import { useRobot } from "./state.js";
import { change, select, showPanel } from "./store.js";

const LISTS: readonly (readonly [CatalogueList, string])[] = [
  ["wheels", "Wheels"],
  ["motors", "Motors"],
  ["support", "Support"],
  ["sensors", "Sensors"],
  ["servos", "Servos"],
  ["attachments", "Attachments"],
];

export function Catalogue() {
  const robot = useRobot((state) => state.robot);
  const [words, setWords] = useState("");
  const [added, setAdded] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  const found = CATALOGUE.filter((entry) =>
    `${entry.title} ${entry.about}`.toLowerCase().includes(words.toLowerCase()),
  );
  const add = (id: string, title: string) => {
    const made = addPart(robot, id);
    change(made.robot, `adding ${title.toLowerCase()}`);
    select(made.ref);
    setAdded(`${title} added as ${made.ref}.`);
  };
  return (
    <Panel title="Add a part" label="Catalogue of parts" close={() => showPanel("none")}>
      <Typed
        ref={input}
        className="find"
        placeholder="Find a part"
        aria-label="Find a part"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        onKeyDown={(event) => {
          const [first] = found;
          if (event.key === "Enter" && first) add(first.id, first.title);
        }}
      />
      <p role="status" className="quiet small">
        {added ?? "Typical values of generic parts; change any number afterwards."}
      </p>
      {LISTS.map(([list, title]) => {
        const here = found.filter((entry) => entry.list === list);
        if (here.length === 0) return null;
        return (
          <section key={list} className="catalogue">
            <h3>{title}</h3>
            {here.map((entry) => (
              <button key={entry.id} type="button" onClick={() => add(entry.id, entry.title)}>
                <span>{entry.title}</span>
                <small>{entry.about}</small>
              </button>
            ))}
          </section>
        );
      })}
      {found.length === 0 && <p>No part is called that. Try wheel, motor or eye.</p>}
    </Panel>
  );
}
