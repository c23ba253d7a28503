// One term for one thing: what each word of the screens means, and what else people call it. Search finds things by
// both; docs/words.md is written from here.

interface Term {
  readonly term: string;
  /** One short sentence without its full stop. */
  readonly means: string;
  /** What others call it. */
  readonly also: readonly string[];
  /** Page where it is met. */
  readonly page: string;
}

interface TermGroup {
  readonly title: string;
  readonly terms: readonly Term[];
}

const term = (term: string, means: string, also: readonly string[], page: string): Term => ({
  term,
  means,
  also,
  page,
});

export const GLOSSARY: readonly TermGroup[] = [
  {
    title: "The robot",
    terms: [
      term(
        "travel per wheel turn",
        "how far the robot goes when its wheels turn once",
        ["rollout", "circumference"],
        "/calibrate?known=wheel-size",
      ),
      term(
        "effective track width",
        "distance between the wheels that explains how far the robot turns",
        ["wheelbase", "axle track", "turning width"],
        "/calibrate?known=turning-width",
      ),
      term("encoder", "counts how far a motor has turned", ["rotation sensor", "odometer"], "/robot"),
      term("gyro", "measures how fast the robot turns, and so its heading", ["gyroscope", "IMU"], "/robot"),
      term(
        "distance sensor",
        "measures how far away a thing is, by sound",
        ["ultrasonic sensor", "sonar", "range finder"],
        "/robot",
      ),
      term("proximity sensor", "says whether a thing is near, yes or no", ["near sensor", "IR switch"], "/robot"),
      term(
        "light sensor",
        "measures how light the floor is under a spot",
        ["line sensor", "reflectance sensor", "floor sensor"],
        "/robot",
      ),
      term("colour sensor", "reads the colour of a plate or of the floor", ["tag reader"], "/robot"),
      term("bumper", "a switch that closes when the robot touches something", ["touch sensor", "whisker"], "/robot"),
      term(
        "breakaway duty",
        "least share of power at which a wheel begins to turn",
        ["dead zone", "static friction", "pull-away power"],
        "/calibrate?known=pull-away",
      ),
      term("ground clearance", "gap between the robot and the floor", [], "/robot"),
      term("acceleration limit", "fastest change of speed that is asked of the wheels", ["ramp"], "/robot"),
      term("top speed", "fastest the robot goes on a fresh pack", ["maximum speed"], "/robot"),
      term("start placement", "how exactly you put the robot down", ["placing"], "/calibrate?known=placement"),
      term("start place", "where a mission begins on the field", ["begin place", "start position"], "/field"),
      term(
        "simulated robot",
        "a robot that this computer plays, with hidden faults of its own",
        ["stand-in", "virtual robot"],
        "/drive",
      ),
    ],
  },
  {
    title: "Missions",
    terms: [
      term("mission", "a list of steps for one robot", ["program", "run"], "/mission"),
      term("Cairn", "the language of missions", [], "/mission"),
      term("step", "one line of a mission", ["block", "command"], "/mission"),
      term("parameter", "a number with a name and a unit", ["value", "variable", "constant"], "/mission"),
      term("problem", "something that keeps a mission from running well", ["error", "warning"], "/mission"),
      term("fix", "what would put a problem right, by one press", ["mend", "quick fix"], "/mission"),
      term("rehearse", "to run a mission on the simulated robot", ["simulate"], "/mission"),
      term("trial", "one kept run, of a rehearsal or of a robot", ["log", "recording"], "/trials"),
      term("study", "many rehearsals of one version at once", ["batch", "Monte Carlo"], "/mission"),
      term(
        "effect on the mission",
        "how far the end moves when a measured number is off by one standard error",
        ["sensitivity", "worth"],
        "/calibrate",
      ),
      term("failed runs", "runs that did not meet the goal", ["losses"], "/mission"),
      term("expo curve", "how the push of a stick becomes speed", ["stick curve"], "/drive"),
      term("stored programs", "missions that a robot holds", ["slots", "shelf"], "/mission"),
    ],
  },
  {
    title: "Documents",
    terms: [
      term("document", "a robot, a field, a mission, a collection or a notebook", ["file"], "/"),
      term("version", "a document as it was at one moment; it never changes", ["revision", "rev", "commit"], "/"),
      term("draft", "what was typed since the newest version", ["unsaved changes"], "/"),
      term("archive", "to put a document away without losing it", ["trash"], "/"),
      term("delete for good", "to remove an archived document and every run made with it", ["purge"], "/"),
      term("trail", "the row of workplaces at the top of every page", ["menu", "tabs"], "/"),
      term("pebble", "a mark on the trail or on the path: hollow, half or full", ["dot", "badge"], "/"),
    ],
  },
];

/** The glossary as a page of Markdown. */
export function glossaryPage(): string {
  const rows = (terms: readonly Term[]) =>
    terms.map(({ term, means, also }) => `| ${term} | ${means} | ${also.join(", ")} |`).join("\n");
  const tables = GLOSSARY.map(
    ({ title, terms }) => `## ${title}\n\n| We say | It is | Others say |\n| --- | --- | --- |\n${rows(terms)}\n`,
  );
  return `# Words

One term for one thing, on every screen, in every problem and in these pages. Others say different words for the same
thing: search finds it by them too. This page is written by \`npm run schemas\` from \`core/src/words/glossary.ts\`.

${tables.join("\n")}
\`npm run sentences\` prints every sentence of the screens and the command line with its number of words.
`;
}
