// The parts of the robot, in groups, with the one fact that matters beside each.
import { partsOf } from "@giddy-pebble/core";
import { Pebble } from "../../shared/Pebble.js";
import { useRobot } from "./state.js";
import { select, showPanel } from "./store.js";
import { GROUPS, partFact, partTitle } from "./words.js";

export function PartList() {
  const robot = useRobot((state) => state.robot);
  const selected = useRobot((state) => state.selected);
  const problems = useRobot((state) => state.problems);
  const parts = partsOf(robot);
  return (
    <nav className="parts" aria-label="Parts">
      {GROUPS.map(([group, title]) => {
        const here = parts.filter((part) => part.group === group);
        if (here.length === 0) return null;
        return (
          <section key={group}>
            <h2>{title}</h2>
            {here.map((part) => {
              const trouble = problems.find((problem) => problem.part === part.ref);
              return (
                <button
                  key={part.ref}
                  type="button"
                  className="part"
                  aria-current={part.ref === selected ? "true" : undefined}
                  onClick={() => select(part.ref)}
                  title={trouble?.message}
                >
                  <Pebble
                    fill={
                      trouble
                        ? trouble.severity === "error"
                          ? "rust"
                          : "amber"
                        : part.ref === selected
                          ? "water"
                          : "stone"
                    }
                    width={14}
                  />
                  <span className="name">{partTitle(robot, part)}</span>
                  <span className="mono quiet">{partFact(robot, part)}</span>
                  {trouble && <span className="sr">{trouble.message}</span>}
                </button>
              );
            })}
          </section>
        );
      })}
      <button type="button" className="addpart" onClick={() => showPanel("catalogue")}>
        Add a part <kbd>A</kbd>
      </button>
    </nav>
  );
}
