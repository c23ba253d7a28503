// Name of the mission, the list to open another or make a new one, and the switch between Steps and Text.
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useState } from "react";
import { NewMission } from "../../shared/mission/NewMission.js";
import { useMission } from "../../shared/mission/state.js";
import { openMission, showView } from "../../shared/mission/store.js";
import { askedForNew } from "../../shared/place.js";

export function MissionHead() {
  const open = useMission((state) => state.open);
  const missions = useMission((state) => state.missions);
  const view = useMission((state) => state.view);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<"mission" | "collection" | null>(() => (askedForNew() ? "mission" : null));
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
        <MenuItem
          onClick={() => {
            setAnchor(null);
            useMission.setState({ panel: "board" });
          }}
        >
          Put on a board…
        </MenuItem>
        <Divider />
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
            {mission.kind === "collection" && <span className="quiet">&nbsp;· collection</span>}
          </MenuItem>
        ))}
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
