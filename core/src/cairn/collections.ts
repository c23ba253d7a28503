// Collections of routines: a mission names one with `use`, and what it calls of it is put below the mission's own text,
// under a line with the collection's name. Such a text is whole: it runs wherever it is sent, and a kept version of it
// holds the routines it ran with.

import { nearestWord } from "../words/language.js";
import { parseMission } from "./parser.js";
import { alsoIn, faultyCollection, noCollection, type Problem, unusedCollection } from "./problems.js";
import { callsOf } from "./symbols.js";
import { bodiesOf, type Mission } from "./tree.js";

/** Texts of collections by their name. */
export type Collections = ReadonlyMap<string, string>;

interface JoinedMission {
  /** The mission's text with the routines it uses below it. */
  readonly text: string;
  /** How much of it is the mission's own, characters. */
  readonly own: number;
  /** All of it, parsed. */
  readonly mission: Mission;
  readonly problems: readonly Problem[];
}

/** A piece of a collection: the names it declares, those it may need, and its lines. */
interface Piece {
  readonly name: string;
  readonly words: ReadonlySet<string>;
  readonly first: number;
  readonly end: number;
}

/** Words of some lines, as far as they could be names. */
function wordsOf(mission: Mission, first: number, end: number): Set<string> {
  const words = new Set<string>();
  for (let i = first; i < end; i += 1)
    for (const token of mission.lines[i]?.tokens ?? []) if (token.kind === "word") words.add(token.text);
  return words;
}

function piecesOf(collection: Mission): Piece[] {
  const { routines, sets, lists, paths } = collection;
  const piece = (name: string, first: number, end: number): Piece => ({
    name,
    first,
    end,
    words: wordsOf(collection, first, end),
  });
  const pathEnd = (line: number, places: readonly { line: number }[]) => (places.at(-1)?.line ?? line) + 1;
  return [
    ...sets.map(({ name, line }) => piece(name.name, line, line + 1)),
    ...lists.map(({ name, line }) => piece(name.name, line, line + 1)),
    ...paths.map(({ name, line, places }) => piece(name.name, line, pathEnd(line, places))),
    ...routines.map(({ name, line, body }) => piece(name.name, line, body.endLine)),
  ];
}

/** The pieces that are needed for some names, with all that those need in turn, in the order of the text. */
function neededPieces(pieces: readonly Piece[], wanted: ReadonlySet<string>): Piece[] {
  const needed = new Set<Piece>();
  const visit = (words: ReadonlySet<string>): void => {
    for (const piece of pieces) {
      if (needed.has(piece) || !words.has(piece.name)) continue;
      needed.add(piece);
      visit(piece.words);
    }
  };
  visit(wanted);
  return pieces.filter((piece) => needed.has(piece)).sort((a, b) => a.first - b.first);
}

function linesOf(collection: Mission, { first, end }: Piece): string {
  const from = collection.lines[first]?.start ?? 0;
  const to = collection.lines[end]?.start ?? collection.text.length;
  return collection.text.slice(from, to).trimEnd();
}

/** Names a mission declares itself, each with where. */
function declaredBy(mission: Mission): Map<string, { start: number; end: number }> {
  const { sets, lists, paths, routines } = mission;
  return new Map([...sets, ...lists, ...paths, ...routines].map(({ name }) => [name.name, name]));
}

/**
 * Puts what a mission uses below it. A text that holds its collections already stays as it is.
 * @param mission - its text parsed
 */
export function joinCollections(text: string, collections: Collections, mission = parseMission(text)): JoinedMission {
  const uses = mission.headers.filter(({ word }) => word === "use");
  const held = new Set(mission.sections.map(({ name }) => name));
  const problems: Problem[] = [];
  const ownEnd = mission.isCollection ? text.length : (mission.sections[0]?.lineStart ?? text.length);
  if (uses.length === 0) return { text, own: ownEnd, problems, mission };
  const wanted = wordsOf(mission, 0, mission.lines.length);
  for (const body of bodiesOf(mission)) for (const { name } of callsOf(body)) wanted.add(name);
  const declared = declaredBy(mission);
  const from = new Map<string, string>();
  let joined = text;
  for (const use of uses) {
    if (held.has(use.value)) continue;
    const source = collections.get(use.value);
    if (source === undefined) {
      problems.push(
        noCollection(use.valueSpan, use.value, [...collections.keys()], nearestWord(use.value, collections.keys())),
      );
      continue;
    }
    const collection = parseMission(source);
    const fault = collection.problems.find(({ severity }) => severity === "error");
    if (fault) {
      const line = source.slice(0, fault.start).split("\n").length;
      problems.push(faultyCollection(use.valueSpan, use.value, line, fault.message));
      continue;
    }
    const pieces = neededPieces(piecesOf(collection), wanted);
    if (pieces.length === 0) problems.push(unusedCollection(use, use.value));
    for (const { name } of pieces) {
      const own = declared.get(name);
      const other = from.get(name);
      if (own) problems.push(alsoIn(own, name, use.value));
      else if (other !== undefined) problems.push(alsoIn(use.valueSpan, name, `${other}" and of "${use.value}`));
      from.set(name, use.value);
    }
    const lines = pieces.filter(({ name }) => !declared.has(name)).map((piece) => linesOf(collection, piece));
    joined = `${joined.trimEnd()}\n\ncollection "${use.value}"\n${lines.join("\n")}\n`;
  }
  return { text: joined, own: ownEnd, problems, mission: joined === text ? mission : parseMission(joined) };
}

/** Problems of a joined text as the mission's author can mend them: those of a collection stand where it is named. */
export function atTheirUse(mission: Mission, own: number, problems: readonly Problem[]): Problem[] {
  if (mission.isCollection || mission.sections.length === 0) return [...problems];
  const section = (start: number) => mission.sections.filter(({ lineStart }) => lineStart <= start).at(-1)?.name ?? "";
  const moved = new Set<string>();
  return problems.flatMap((problem) => {
    if (problem.start < own) return [problem];
    if (problem.severity !== "error") return [];
    const name = section(problem.start);
    const use = mission.headers.find(({ word, value }) => word === "use" && value === name);
    if (!use || moved.has(name)) return [];
    moved.add(name);
    return [faultyCollection(use.valueSpan, name, null, problem.message)];
  });
}
