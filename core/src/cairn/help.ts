// What words mean, in one sentence each: for hovering in the text, and beside completions.
import { dimensionWords } from "../units/dimension.js";
import { dimensionUnit } from "../units/units.js";
import type { Kind } from "./kinds.js";
import type { Reading } from "./readings.js";

/** Step words, tails and words of conditions. */
export const WORD_HELP: Readonly<Record<string, string>> = {
  go: "Drives straight ahead by a length, or until or for something; to a place; or along a path.",
  back: "Drives straight back, holding the heading it has.",
  slide: "Moves sideways and keeps looking where it looks; for robots with roller wheels.",
  turn: "Turns on the spot by an angle, left or right; or swings about one wheel.",
  face: "Turns to a heading counted from the start place, the shorter way.",
  arc: "Drives a curve of the robot's middle; the side is where the curve's centre lies.",
  roll: "Keeps a speed and a turning rate, and passes on unless it has an end.",
  wheels: "Keeps a speed for each side, and passes on unless it has an end.",
  power: "Gives each side, or one motor, a share of the pack's voltage. Nothing is measured.",
  steer: "Sets the steered axle of a car type.",
  press: "Pushes gently until both sides stand still: squares the robot up on a wall.",
  follow: "Follows a line with light sensors, or a wall with a distance sensor.",
  move: "Turns a motor or servo to or by an angle, then holds it there.",
  home: "Turns a motor gently against its end stop, and makes that angle zero.",
  aim: "Turns a head, waits until it stands and its distance sensor has looked anew.",
  scan: "Looks several ways with a head; then its nearest and clearest directions can be used.",
  wait: "Lets time pass, or waits until something comes true.",
  stop: "Stops the wheels, one motor, or a started routine.",
  coast: "Lets the wheels, or one motor, run out.",
  show: "Shows values on the display. Takes no time.",
  light: "Sets the light's brightness. Takes no time.",
  beep: "Beeps once, with a pitch and a length if it is given one. Takes no time.",
  add: "Adds a value to the end of a list.",
  clear: "Empties a list or a table.",
  note: "Writes a value down with its time, to look at after the run.",
  set: "Gives a value a name. Above the mission it is fixed before the robot starts.",
  reset: "Makes the present place, heading or angle zero.",
  send: "Sends a signal to every task; each remembers it until it is heard there.",
  start: "Starts a routine beside the mission.",
  repeat:
    "Does the steps inside again and again: a number of times, while or until something is true, or for each value of a list.",
  every: "Runs the steps inside at a fixed beat; they must take no time.",
  if: "Does the steps inside when the condition holds at this moment.",
  else: "What is done when the condition above does not hold.",
  choose: "Looks at a value once and takes the first line inside that fits.",
  otherwise: "What is done when no line of choose fits.",
  together: "Does several things side by side; goes on when all have ended, or when one has.",
  also: "Another thing that is done at the same time.",
  during: "Does the steps inside, and watches for what whenever says.",
  whenever: "Interrupts the steps above as soon as this is true; then they go on with what is left.",
  resume: "Goes back to what was interrupted.",
  skip: "Goes back, but ends the step that was interrupted.",
  leave: "Leaves the nearest repeat, every or during.",
  next: "Goes on with the next pass of the nearest repeat or every.",
  give: "Ends the routine with a value for whoever called it.",
  finish: "Ends the mission.",
  hand: "Lets the driver have the wheels and the buttons; for a time, or until something.",
  over: "Lets the driver have the wheels and the buttons; for a time, or until something.",
  remote: "What the driver's sticks, buttons and sliders do.",
  drive: "How the sticks drive the wheels: one stick, two sticks, tank or curvature.",
  hold: "What a button does while it is held, and what letting go does.",
  toggle: "What a button switches on, and what pressing it again does.",
  tap: "What a press begins, and what pressing again does.",
  with: "What belongs to it: a sensor to follow by, a number of looks, or a slider that moves a servo.",
  release: "What letting go of the button does.",
  again: "What pressing the button again does.",
  dead: "How far a stick is pushed before anything happens.",
  curve: "How a stick's push becomes speed: 1 is straight, more is finer near the middle.",
  switching: "For drivers that are only on or off: the push from which a side is on.",
  at: "How fast; or what a follower does at crossings or corners.",
  gain: "How strongly a line follower turns to the line, against what is usual for the robot.",
  damp: "How much a line follower holds back while the line moves, against what is usual for the robot.",
  bridge: "The longest gap of the line that is bridged.",
  crossings: "Where two lines cross: goes straight on, turns left or right, or ends the step.",
  corners: "Where the wall turns: goes round the corner, or ends the step.",
  using: "At most this share of the power.",
  ramp: "How quickly the speed changes.",
  for: "Ends the step after a time.",
  until: "Ends the step when this comes true.",
  limit: "Ends the step when it went on for too long, and marks the run as not good.",
  // biome-ignore lint/suspicious/noThenProperty: a word of the language, looked up by name and never awaited
  then: "What the robot does at the end of the step: stop, coast, or keep rolling.",
  held: "Only when it has been true for this long without a break.",
  heard: "Whether a signal was sent since it was last heard here.",
  inside: "Whether the whole robot stands inside a zone at the end.",
  untouched: "Whether the robot touched nothing in the whole run, but for what is named.",
  list: "A list of values of one kind, with the most it may hold.",
  table: "Values that are found by a key, such as a colour.",
  path: "Places in order, for go along.",
  remember: "A value that stays on the robot from one run to the next.",
  use: "Brings routines of a collection.",
  clock: "Time since the mission began, in s.",
  score: "Points of the field's zones at the end.",
  goal: "What has to be true at the end for the run to count as good.",
  begin: "The start place: where the robot stands at the start, and what headings are counted from.",
  routine: "Steps with a name, to be called from anywhere, with values of its own.",
};

/** A kind with the unit people use for it: "a length, such as 30 cm". */
function kindHelp(kind: Kind): string {
  if (kind.is === "truth") return "yes or no";
  if (kind.is === "colour") return "a colour, such as green";
  if (kind.is === "text") return "a text";
  if (kind.is !== "quantity") return "";
  const { unit } = dimensionUnit(kind.dimension);
  return unit === "" ? `${dimensionWords(kind.dimension)} or share` : `${dimensionWords(kind.dimension)}, in ${unit}`;
}

const READING_HELP: readonly (readonly [RegExp, string])[] = [
  [/\.pressed$/, "Whether it is pressed."],
  [/\.tapped$/, "Whether it was tapped since this watch began."],
  [/\.distance$/, "Distance to what the distance sensor sees; its far limit when it sees nothing."],
  [/\.seen$/, "Whether the distance sensor sees anything."],
  [/\.blocked$/, "Whether something is near."],
  [/\.crossing$/, "Whether all spots are dark at once, as on a mark across."],
  [/\.light$/, "How light the floor is under this spot."],
  [/\.colour$/, "The colour under it."],
  [/\.dark$/, "Whether the floor is dark under this spot."],
  [/\.pitch$/, "How steep the robot stands: its nose up is positive."],
  [/\.roll$/, "How steep the robot stands: its left side up is positive."],
  [/\.sure$/, "Whether the tag reader is sure of the colour."],
  [/\.nearest$/, "Direction of the nearest look of the latest scan."],
  [/\.clearest$/, "Direction of the clearest look of the latest scan."],
  [/^robot\.travel$/, "How far the wheels say it went, forwards counted up."],
  [/^robot\.heading$/, "Heading from the start place, left positive."],
  [/^robot\.[xy]$/, "Where the wheels and the gyro say it is, from the start place."],
  [/^robot\.speed$/, "How fast the wheels say it goes."],
  [/^battery\.current$/, "Current the pack gives."],
  [/\.holding$/, "Whether it closed on something, or carries something."],
  [/^robot\.stalled$/, "Whether the wheels are pushed and do not turn."],
  [/^battery\.voltage$/, "Voltage of the pack."],
  [/^last\./, "How this task's latest ended step went."],
  [/\.heading$/, "Heading by the gyro, left positive."],
  [/\.rate$/, "How fast it turns, left positive."],
  [/\.angle$/, "Angle of the shaft from its zero."],
  [/\.speed$/, "How fast the shaft turns."],
  [/\.stalled$/, "Whether the motor is pushed and does not turn."],
  [/\.heat$/, "How near the winding is to cutting out."],
];

export function readingHelp(name: string, reading: Reading): string {
  const words = READING_HELP.find(([pattern]) => pattern.test(name))?.[1] ?? "";
  const kind = kindHelp(reading.kind);
  return `${words}${kind === "" || kind === "yes or no" ? "" : ` ${kind.charAt(0).toUpperCase()}${kind.slice(1)}.`}`.trim();
}
