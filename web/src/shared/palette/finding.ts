// What Ctrl+K finds: documents, acts, words of Cairn and words of the screens; and in which order.
import { CAIRN_REFERENCE, GLOSSARY } from "@giddy-pebble/core";
import type { ListedDocument } from "../api.js";

export const GROUPS = ["Documents", "Acts", "Help", "Words"] as const;

export interface Found {
  readonly group: (typeof GROUPS)[number];
  readonly title: string;
  readonly about: string;
  /** What else it is found by. */
  readonly also: string;
  /** A page, or something done here. */
  readonly href: string;
}

const PAGE: Readonly<Record<string, string>> = {
  robot: "/robot?robot=",
  field: "/field?field=",
  mission: "/mission?mission=",
  collection: "/mission?mission=",
  notebook: "/notebook?notebook=",
};

const ACTS: readonly (readonly [title: string, about: string, also: string, href: string])[] = [
  ["See every document", "the home page", "home files list open", "/"],
  ["Describe a robot", "the Robot workplace", "new build parts wiring gears", "/robot"],
  ["Measure a robot", "the Calibrate workplace", "calibration wheel gyro", "/calibrate"],
  ["Draw a field", "the Field workplace", "new table mat line wall", "/field"],
  ["Write a mission", "the Mission workplace", "new program rehearse simulate run", "/mission"],
  ["Make a new mission", "give it a name, write its steps", "create begin add program", "/mission?new=yes"],
  ["Make a new robot", "give it a name, put parts on it", "create begin add build", "/robot?new=yes"],
  ["Make a new field", "empty, or from a ready start", "create begin add table", "/field?new=yes"],
  ["Drive by hand", "the Drive workplace", "remote gamepad stick", "/drive"],
  ["Look at runs", "the Trials workplace", "compare overlay log", "/trials"],
  ["Save the project as a file", "everything in open formats, one .zip", "export backup download", "/api/project"],
  ["Look up a word", "words of Cairn with examples", "help reference manual language", "/help"],
];

/** Everything that can be found. */
export function everything(documents: readonly ListedDocument[]): readonly Found[] {
  return [
    ...documents
      .toSorted((a, b) => (a.changedAt < b.changedAt ? 1 : -1))
      .map(
        ({ id, kind, name, robot, field }): Found => ({
          group: "Documents",
          title: name,
          about: kind,
          also: `${robot ?? ""} ${field ?? ""}`,
          href: `${PAGE[kind] ?? "/?document="}${id}`,
        }),
      ),
    ...ACTS.map(([title, about, also, href]): Found => ({ group: "Acts", title, about, also, href })),
    ...CAIRN_REFERENCE.flatMap(({ title, entries }) =>
      entries.map(
        ({ word, help }): Found => ({
          group: "Help",
          title: word,
          about: help,
          also: title,
          href: `/help#${word.replaceAll(" ", "-")}`,
        }),
      ),
    ),
    ...GLOSSARY.flatMap(({ terms }) =>
      terms.map(
        ({ term, means, also }): Found => ({
          group: "Words",
          title: term,
          about: means,
          also: also.join(" "),
          href: `/help#${term.replaceAll(" ", "-")}`,
        }),
      ),
    ),
  ];
}

function plain(text: string): string {
  return text
    .normalize("NFKD")
    .replaceAll(/[\u0300-\u036f]/g, "")
    .toLowerCase();
}

/** How well it fits: 0 is not at all. The title counts more than what stands beside it, its beginning most. */
function score({ title, about, also }: Found, words: readonly string[]): number {
  const [name, rest] = [plain(title), plain(`${about} ${also}`)];
  let sum = name === words.join(" ") ? 20 : 0;
  for (const word of words) {
    if (name === word) sum += 12;
    else if (name.startsWith(word)) sum += 8;
    else if (name.includes(` ${word}`)) sum += 6;
    else if (name.includes(word)) sum += 4;
    else if (rest.startsWith(word) || rest.includes(` ${word}`)) sum += 2;
    else return 0;
  }
  return sum;
}

const MOST = 40;

/** The best of everything for what is typed, kept together by their group; without words the newest documents and the acts. */
export function find(all: readonly Found[], typed: string): readonly Found[] {
  const words = plain(typed).split(/\s+/).filter(Boolean);
  if (words.length === 0) {
    const documents = all.filter(({ group }) => group === "Documents").slice(0, 6);
    return [...documents, ...all.filter(({ group }) => group === "Acts")];
  }
  const scored = all.flatMap((found) => {
    const points = score(found, words);
    return points === 0 ? [] : [{ found, points }];
  });
  const best = new Map<string, number>();
  for (const { found, points } of scored) best.set(found.group, Math.max(best.get(found.group) ?? 0, points));
  return scored
    .toSorted(
      (a, b) =>
        (best.get(b.found.group) ?? 0) - (best.get(a.found.group) ?? 0) ||
        GROUPS.indexOf(a.found.group) - GROUPS.indexOf(b.found.group) ||
        b.points - a.points,
    )
    .slice(0, MOST)
    .map(({ found }) => found);
}
