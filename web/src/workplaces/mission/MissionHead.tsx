// Name of the mission, the list to open another or make a new one, and the switch between Steps and Text.
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useEffect, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { useMission } from "./state.js";
import { createCollection, createMission, openMission, showView } from "./store.js";

export function MissionHead() {
  const open = useMission((state) => state.open);
  const missions = useMission((state) => state.missions);
  const view = useMission((state) => state.view);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<"mission" | "collection" | null>(null);
  return (
    <div className="panehead">
      {naming ? (
        <NewMission kind={naming} close={() => setNaming(null)} />
      ) : (
        <h1>
          <button
            type="button"
            className="plain"
            aria-haspopup="menu"
            onClick={(event) => setAnchor(event.currentTarget)}
          >
            {open?.name ?? "Mission"} <span className="quiet">▾</span>
          </button>
        </h1>
      )}
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        disableRestoreFocus={naming !== null}
      >
        {missions.map((mission) => (
          <MenuItem
            key={mission.id}
            selected={mission.id === open?.id}
            onClick={() => {
              setAnchor(null);
              void openMission(mission.id);
            }}
          >
            {mission.name}
            {mission.kind === "collection" && <span className="quiet"> · collection</span>}
          </MenuItem>
        ))}
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setNaming("mission");
          }}
        >
          New mission…
        </MenuItem>
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setNaming("collection");
          }}
        >
          New collection of routines…
        </MenuItem>
      </Menu>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={view}
        aria-label="View"
        onChange={(_, chosen: "steps" | "text" | null) => chosen && showView(chosen)}
      >
        <ToggleButton value="steps">Steps</ToggleButton>
        <ToggleButton value="text">Text</ToggleButton>
      </ToggleButtonGroup>
    </div>
  );
}

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
