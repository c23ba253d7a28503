// The frame of every page: brand, trail, robot.
import Tooltip from "@mui/material/Tooltip";
import { type ReactNode, useEffect, useState, useSyncExternalStore } from "react";
import { api } from "./api.js";
import { RobotPill } from "./link/RobotPill.js";
import { Pebble, type PebbleFill } from "./Pebble.js";
import { hearPlace, linkTo } from "./place.js";
import { measureNext, type NextKnown } from "./weighing.js";
import { WORKPLACES, type WorkplaceId } from "./workplaces.js";

export interface Readiness {
  readonly fill: "hollow" | "half" | "full";
  readonly why: string;
}

const NOTHING: Readiness = { fill: "hollow", why: "Nothing here yet." };

/** How ready each part is, from what the server has. */
async function readReadiness(): Promise<Partial<Record<WorkplaceId, Readiness>>> {
  const found = await api.overview();
  if (!found.ok) return {};
  const { documents, trials, calibratedRobots: measured } = found.value;
  const has = (kind: string) => (documents[kind] ?? 0) > 0;
  return {
    robot: has("robot")
      ? { fill: "half", why: "A robot is described; open it to see whether its wiring is in order." }
      : NOTHING,
    calibrate:
      measured > 0
        ? { fill: "full", why: `${measured === 1 ? "One robot was" : `${measured} robots were`} measured.` }
        : has("robot")
          ? { fill: "half", why: "Nothing was measured here yet." }
          : NOTHING,
    field: has("field")
      ? { fill: "half", why: "A field is drawn; nobody has checked it against the real table." }
      : NOTHING,
    mission: trials.worked
      ? { fill: "full", why: "A mission met its goal in a rehearsal." }
      : has("mission")
        ? { fill: "half", why: "A mission is written; no rehearsal has met its goal yet." }
        : NOTHING,
    notebook: has("notebook")
      ? { fill: "full", why: "A notebook is there. Its pages make themselves." }
      : { fill: "hollow", why: "No notebook yet. One press makes it from what is there." },
    trials:
      trials.count > 0
        ? {
            fill: "half",
            why: `${trials.count === trials.most ? `${trials.most} or more` : trials.count} runs are kept; ${trials.byRobot ? "some are a robot's" : "none is a robot's yet"}.`,
          }
        : NOTHING,
  };
}

function Brand() {
  return (
    <a className="brand" href={linkTo("/")} aria-label="Giddy Pebble, home">
      <svg width="22" height="20" viewBox="0 0 22 20" aria-hidden="true">
        <ellipse cx="11" cy="15.500" rx="10.500" ry="4.200" fill="var(--ink)" />
        <ellipse cx="11.500" cy="9.500" rx="7" ry="3.200" fill="var(--water)" />
        <ellipse cx="10.500" cy="4.500" rx="4.500" ry="2.400" fill="var(--amber)" />
      </svg>
      Giddy Pebble
    </a>
  );
}

/** What to measure next, found out once somebody asks the Calibrate pebble. */
function useNextKnown(robot: string | null): [next: NextKnown | null, ask: () => void] {
  const [found, setFound] = useState<{ readonly robot: string | null; readonly next: NextKnown | null } | null>(null);
  const ask = () => {
    if (found?.robot === robot) return;
    setFound({ robot, next: null });
    void measureNext(robot).then((next) => setFound({ robot, next }));
  };
  return [found?.robot === robot ? found.next : null, ask];
}

/** Gives what the page is for an address within the page, so that the skip link leads past the trail to it. */
function useMainAddress(): void {
  useEffect(() => {
    const main = document.querySelector("main");
    if (!main) return;
    main.id = "main";
    main.tabIndex = -1;
  });
}

export function Frame({
  current,
  robot,
  refresh = 0,
  ready = null,
  search,
  children,
}: {
  current: WorkplaceId | "home" | "help" | "run";
  robot?: string | null;
  refresh?: number;
  /** What this page itself knows of its workplace, better than a look at the server. */
  ready?: Readiness | null;
  /** Opens the search over everything. */
  search: () => void;
  children: ReactNode;
}) {
  useMainAddress();
  const [readiness, setReadiness] = useState<Partial<Record<WorkplaceId, Readiness>>>({});
  // biome-ignore lint/correctness/useExhaustiveDependencies: refresh asks for a new look, it is not read
  useEffect(() => {
    let here = true;
    void readReadiness().then((found) => here && setReadiness(found));
    return () => {
      here = false;
    };
  }, [refresh]);
  const [next, weigh] = useNextKnown(robot ?? null);
  // The links of the trail take along what is chosen now.
  useSyncExternalStore(hearPlace, () => window.location.href);
  return (
    <div className="frame">
      <a className="skip" href="#main">
        Skip to the work
      </a>
      <header className="topbar">
        <Brand />
        <span className="team">Fellside</span>
        <nav className="trail" aria-label="Workplaces">
          <ol>
            {WORKPLACES.map(({ id, title }) => {
              const { fill, why } = (id === current ? ready : null) ?? readiness[id] ?? NOTHING;
              const offers = id === "calibrate";
              const offered = offers ? next : null;
              return (
                <li key={id}>
                  <Tooltip
                    title={offered ? `${why} ${offered.words}` : why}
                    describeChild
                    onOpen={offers ? weigh : undefined}
                  >
                    <a href={linkTo(offered?.href ?? `/${id}`)} aria-current={id === current ? "page" : undefined}>
                      <Pebble fill={fill as PebbleFill} width={20} />
                      {title}
                    </a>
                  </Tooltip>
                </li>
              );
            })}
          </ol>
        </nav>
        <button type="button" className="searchpill" onClick={search} title="Search everything (Ctrl+K)">
          Search
        </button>
        <RobotPill robot={robot ?? null} />
      </header>
      {children}
    </div>
  );
}
