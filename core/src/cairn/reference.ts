// The words of Cairn with an example of each that runs as it stands.
import { WORD_HELP } from "./help.js";

export interface ReferenceEntry {
  readonly word: string;
  readonly help: string;
  /** A whole mission. */
  readonly example: string;
}

interface ReferenceGroup {
  readonly title: string;
  readonly entries: readonly ReferenceEntry[];
}

interface Draft {
  /** Lines of the mission; each is indented when it is put together. */
  readonly steps: string;
  /** Lines above the mission. */
  readonly above?: string;
  /** Lines below it. */
  readonly below?: string;
  readonly robot?: "Drizzle" | "Sleet" | "Thaw" | "Flurry";
}

const LISTS = "list looks of length, at most 4\ntable seen of number by colour, at most 4";
const REMOTE = "remote\n  drive two sticks at 30 cm/s";

const DRIVING: Record<string, Draft> = {
  go: { steps: "go 60 cm at 25 cm/s" },
  back: { steps: "back 30 cm at 20 cm/s" },
  slide: { steps: "slide left 30 cm at 15 cm/s\nslide right 30 cm", robot: "Flurry" },
  turn: { steps: "turn left 90 deg at 90 deg/s" },
  face: { steps: "turn left 40 deg\nface 90 deg" },
  arc: { steps: "arc left 90 deg radius 25 cm at 20 cm/s" },
  roll: { steps: "roll 20 cm/s turning left 30 deg/s for 1 s then stop" },
  wheels: { steps: "wheels left 20 cm/s right 15 cm/s for 1 s then stop" },
  power: { steps: "power left 40 % right 40 % for 1 s\nstop" },
  steer: { steps: "steer left 20 deg\ngo 40 cm at 15 cm/s", robot: "Sleet" },
  press: { steps: "go at 20 cm/s until eye.distance < 12 cm limit 2.5 m\npress forward limit 3 s" },
  follow: { steps: "follow line on centre with floor at 18 cm/s for 3 s" },
  stop: { steps: "roll 20 cm/s for 1 s\nstop" },
  coast: { steps: "power both 50 % for 1 s\ncoast\nwait 1 s" },
  reset: { steps: "go 20 cm\nreset robot\nnote way = robot.travel" },
  at: { steps: "go 50 cm at 15 cm/s" },
  ramp: { steps: "go 50 cm at 30 cm/s ramp 40 cm/s/s" },
  "then keep": { steps: "go 30 cm then keep\ngo 30 cm then stop" },
  gain: { steps: "follow line on centre with floor at 18 cm/s gain 120 % for 3 s" },
  damp: { steps: "follow line on centre with floor at 18 cm/s damp 120 % for 3 s" },
  bridge: { steps: "follow line on centre with floor at 18 cm/s bridge 10 cm for 3 s" },
  crossings: { steps: "follow line on centre with floor at 18 cm/s at crossings stop limit 25 s" },
  corners: {
    steps: "follow wall on right 20 cm away with side_eye at 15 cm/s at corners turn for 2 s",
    robot: "Sleet",
  },
};

const PARTS: Record<string, Draft> = {
  move: { steps: "move arm to 45 deg\nmove arm to 0 deg" },
  home: { steps: "home arm toward low\nmove arm to 30 deg" },
  aim: { steps: "aim head to left 30 deg\nnote gap = eye.distance" },
  scan: { steps: "scan head from left 60 deg to right 60 deg with 5 looks\nnote way = head.nearest" },
  show: { steps: 'show "ready", battery.voltage' },
  light: { steps: "light 60 %\nwait 0.5 s\nlight 0 %" },
  beep: { steps: "beep 440 Hz for 0.3 s" },
  using: { steps: "move arm to 40 deg using 50 %" },
};

const ORDER: Record<string, Draft> = {
  wait: { steps: "wait 1 s\nwait until clock > 2 s" },
  repeat: { steps: "repeat 3 times\n  go 10 cm\n  wait 0.3 s" },
  every: {
    steps: "every 100 ms until clock > 1 s\n  note gap = eye.distance",
  },
  together: { steps: "together\n  go 40 cm\nalso\n  beep 440 Hz for 0.2 s" },
  also: { steps: "together\n  go 40 cm\nalso\n  move arm to 45 deg" },
  during: { steps: "during\n  go 80 cm at 20 cm/s\nwhenever eye.distance < 20 cm\n  stop\n  skip" },
  whenever: { steps: "during\n  go 80 cm at 20 cm/s\nwhenever bumper.pressed\n  back 10 cm\n  skip" },
  resume: {
    steps:
      "set rang = 0\nduring\n  go 50 cm at 20 cm/s\nwhenever clock > 1 s and rang is 0\n  set rang = 1\n  beep\n  resume",
  },
  skip: { steps: "during\n  go 90 cm at 20 cm/s\nwhenever robot.travel > 30 cm\n  skip" },
  leave: { steps: "repeat\n  go 10 cm\n  if robot.travel > 30 cm\n    leave" },
  next: { steps: "repeat 3 times as pass\n  if pass is 2\n    next\n  go 10 cm" },
  for: { steps: "go at 20 cm/s for 2 s" },
  until: { steps: "go at 20 cm/s until robot.travel > 40 cm" },
  limit: { steps: "go at 20 cm/s until eye.distance < 20 cm limit 5 m" },
  finish: { steps: "go 20 cm\nfinish" },
  start: { above: "routine blink()\n  light 80 %\n  wait 0.5 s\n  light 0 %", steps: "start blink()\ngo 30 cm" },
  send: { steps: "together\n  go 30 cm\n  send there\nalso\n  wait until heard there\n  beep" },
  heard: { steps: "together\n  wait 0.5 s\n  send now\nalso\n  wait until heard now\n  beep" },
};

const DECISIONS: Record<string, Draft> = {
  if: { steps: "if eye.distance < 50 cm\n  turn left 90 deg\nelse\n  go 20 cm" },
  else: { steps: "if battery.voltage < 6.5 V\n  beep\nelse\n  go 20 cm" },
  choose: { steps: "choose floor.left.colour\n  is black\n    beep\n  otherwise\n    go 10 cm" },
  otherwise: { steps: "choose floor.left.colour\n  is red or orange\n    beep\n  otherwise\n    go 10 cm" },
  held: { steps: "go at 20 cm/s until robot.travel > 20 cm held 100 ms limit 1 m" },
};

const VALUES: Record<string, Draft> = {
  set: { above: "set cruise = 25 cm/s", steps: "go 40 cm at cruise" },
  note: { steps: "go 20 cm\nnote way = robot.travel" },
  list: { above: LISTS, steps: "add 10 cm to looks\nnote first = looks[1]" },
  table: { above: LISTS, steps: "set seen[red] = 3\nnote reds = seen[red]" },
  add: { above: LISTS, steps: "add eye.distance to looks" },
  clear: { above: LISTS, steps: "add 5 cm to looks\nclear looks" },
  path: { above: "path way\n  30 cm, 0 cm\n  60 cm, 20 cm", steps: "go along way at 15 cm/s" },
  remember: { above: "remember runs = 0", steps: "set runs = runs + 1\nshow runs" },
  routine: {
    above: "routine corner(bend: angle)\n  go 15 cm\n  turn bend at 80 deg/s",
    steps: "corner(left 90 deg)\ncorner(right 45 deg)",
  },
  give: { above: "routine half(way: length)\n  give way / 2", steps: "note part = half(30 cm)" },
  clock: { steps: "go 20 cm\nnote now = clock" },
};

const GOALS: Record<string, Draft> = {
  goal: { above: "goal robot.travel > 30 cm", steps: "go 40 cm" },
  inside: { above: 'goal inside "hut dock"', steps: "wait 0.5 s" },
  untouched: { above: "goal untouched", steps: "go 20 cm" },
  score: { above: "goal score >= 0", steps: "go 10 cm" },
  begin: { steps: "go 30 cm\nturn left 180 deg\ngo to begin" },
};

const DRIVER: Record<string, Draft> = {
  "hand over": { steps: "hand over for 2 s", below: REMOTE },
  remote: { steps: "hand over for 1 s", below: REMOTE },
  drive: { steps: "hand over for 1 s", below: "remote\n  drive one stick at 25 cm/s" },
  hold: { steps: "hand over for 1 s", below: `${REMOTE}\n  hold thumb.lower power arm 40 % release stop` },
  toggle: { steps: "hand over for 1 s", below: `${REMOTE}\n  toggle thumb.left light 80 % again light 0 %` },
  release: { steps: "hand over for 1 s", below: `${REMOTE}\n  hold thumb.upper power arm 30 % release coast` },
  again: { steps: "hand over for 1 s", below: `${REMOTE}\n  toggle thumb.right light 50 % again light 0 %` },
  dead: { steps: "hand over for 1 s", below: "remote\n  drive two sticks at 30 cm/s dead 10 %" },
  curve: { steps: "hand over for 1 s", below: "remote\n  drive two sticks at 30 cm/s curve 1.8" },
  switching: { steps: "hand over for 1 s", below: "remote\n  drive tank at 30 cm/s switching 40 %" },
  with: { steps: "hand over for 1 s", below: `${REMOTE}\n  with slider.one move head from -60 deg to 60 deg` },
  tap: { steps: "hand over for 1 s", below: `${REMOTE}\n  tap thumb.right beep again keep` },
};

const GROUPS: readonly (readonly [string, Record<string, Draft>])[] = [
  ["Driving", DRIVING],
  ["Parts", PARTS],
  ["Time and order", ORDER],
  ["Decisions", DECISIONS],
  ["Values and routines", VALUES],
  ["Goals and places", GOALS],
  ["Driving by hand", DRIVER],
];

function whole({ above, steps, below, robot = "Drizzle" }: Draft): string {
  const field = robot === "Drizzle" ? 'field "Fellside"\n' : "";
  const lines = steps.split("\n").map((line) => `  ${line}`);
  const head = `cairn 1\nrobot "${robot}"\n${field}${above ? `\n${above}\n` : ""}`;
  return `${head}\nmission\n${lines.join("\n")}\n${below ? `\n${below}\n` : ""}`;
}

/** "hand over" is explained by its two words alike. */
function helpOf(word: string): string {
  return WORD_HELP[word] ?? WORD_HELP[word.split(" ")[0] ?? ""] ?? "";
}

export const CAIRN_REFERENCE: readonly ReferenceGroup[] = GROUPS.map(([title, drafts]) => ({
  title,
  entries: Object.entries(drafts).map(([word, draft]) => ({ word, help: helpOf(word), example: whole(draft) })),
}));
