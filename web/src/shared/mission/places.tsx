// Places taken from the field by pointing: into the chosen "go to", or to the end of a path.
import { beginOf, takePlace } from "@giddy-pebble/core";
import { StageButton } from "../field/FieldStage.js";
import { selectedLine, useMission } from "./state.js";
import { edit } from "./store.js";

/** @param xM - of the field; yM likewise */
export function placeOnField(xM: number, yM: number): void {
  const state = useMission.getState();
  const { mission, field } = state;
  if (!field) return;
  const begin = beginOf(mission, field.document);
  const [dx, dy] = [xM - begin.xM, yM - begin.yM];
  const c = Math.cos(begin.headingRad);
  const s = Math.sin(begin.headingRad);
  edit(takePlace(mission, selectedLine(state), c * dx + s * dy, c * dy - s * dx), "placing a point");
}

export function PlaceButton() {
  const placing = useMission((state) => state.placing);
  return (
    <>
      <StageButton
        label="Place points of a path"
        sign="◇"
        pressed={placing}
        onPress={() => useMission.setState({ placing: !placing, measure: null })}
      />
      <span className="sr" role="status">
        {placing && "Press points on the field. They go into the chosen go to, or to the end of the path."}
      </span>
    </>
  );
}
