// Names a new mission or collection, and makes it.
import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import { Typed } from "../controls.js";
import { useMission } from "./state.js";
import { createCollection, createMission } from "./store.js";

/** "Mission 3": a name that can be kept as it is. */
function freeName(taken: readonly string[], kind: "mission" | "collection"): string {
  const word = kind === "mission" ? "Mission" : "Routines";
  let number = 1;
  while (taken.includes(`${word} ${number}`)) number += 1;
  return `${word} ${number}`;
}

export function NewMission({ close, kind = "mission" }: { close: () => void; kind?: "mission" | "collection" }) {
  const missions = useMission((state) => state.missions);
  const [name, setName] = useState(() =>
    freeName(
      missions.map((mission) => mission.name),
      kind,
    ),
  );
  const [trouble, setTrouble] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    // After the menu that led here has let go of the focus.
    const frame = requestAnimationFrame(() => input.current?.select());
    return () => cancelAnimationFrame(frame);
  }, []);
  const make = async () => {
    if (name.trim() === "") return setTrouble(`Give the ${kind} a name.`);
    const failed = await (kind === "mission" ? createMission : createCollection)(name.trim());
    if (failed === null) close();
    else setTrouble(failed);
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void make();
      }}
    >
      <Typed
        ref={input}
        className="editor-in"
        aria-label={`Name of the new ${kind}`}
        placeholder={`Name of the ${kind}`}
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && close()}
      />{" "}
      <Button type="submit" variant="contained">
        Make
      </Button>
      {trouble && (
        <div className="bubble" role="alert">
          {trouble}
        </div>
      )}
    </form>
  );
}
