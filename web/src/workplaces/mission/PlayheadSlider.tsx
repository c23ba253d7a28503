// The playhead for those who use keys: an MUI slider over the timeline, drawn while it has the focus.

import { TICK_MS } from "@giddy-pebble/core";
import Slider from "@mui/material/Slider";
import { useState, useSyncExternalStore } from "react";
import { hearPlayhead } from "../../shared/mission/follow.js";
import { pause } from "../../shared/mission/running.js";
import { movePlayhead, playhead } from "../../shared/mission/state.js";

const STEP_TICKS = 10;
const FAR_TICKS = 100;

const hearEach = (listener: () => void) => hearPlayhead(listener);
const hearCalm = (listener: () => void) => hearPlayhead(listener, true);

/** @param last - the last tick it can stand at */
export function PlayheadSlider({ last }: { last: number }) {
  // Keys go on from where it stands: with the focus it is where the playhead is.
  const [focused, setFocused] = useState(false);
  const tick = useSyncExternalStore(focused ? hearEach : hearCalm, () =>
    Math.max(0, Math.min(last, Math.floor(playhead.tick))),
  );
  return (
    <Slider
      className="playheadslider"
      size="small"
      aria-label="Playhead"
      min={0}
      max={Math.max(1, last)}
      step={STEP_TICKS}
      shiftStep={FAR_TICKS}
      value={tick}
      onFocus={() => setFocused(true)}
      onBlur={() => setFocused(false)}
      getAriaValueText={(value) => `${((value * TICK_MS) / 1000).toFixed(2)} s`}
      onChange={(_, value) => {
        pause();
        movePlayhead(Math.min(last, value as number));
      }}
      slotProps={{ input: { className: "scrubber" } }}
    />
  );
}
