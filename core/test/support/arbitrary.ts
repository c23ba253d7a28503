// Random missions that are grammatical, and random damage to them.
import fc from "fast-check";

const number = fc.integer({ min: 1, max: 400 }).map((n) => (n % 3 === 0 ? `${n / 10}` : `${n}`));
const length = number.map((n) => `${n} cm`);
const angle = number.map((n) => `${n} deg`);
const side = fc.constantFrom("left", "right");
const speed = number.map((n) => `${n} cm/s`);
const time = number.map((n) => `${n} s`);
const reading = fc.constantFrom("robot.travel", "robot.x", "last.travel");
const relation = fc.oneof(
  fc.tuple(reading, fc.constantFrom("<", ">", "<=", ">="), length).map((parts) => parts.join(" ")),
  fc.tuple(length, length).map(([a, b]) => `robot.travel is ${a} to ${b}`),
  time.map((t) => `clock > ${t}`),
  fc.constant("not robot.stalled"),
);
const condition = fc.oneof(
  relation,
  fc.tuple(relation, relation).map(([a, b]) => `${a} and ${b}`),
  fc.tuple(relation, relation).map(([a, b]) => `(${a} or not ${b}) held 50 ms`),
);
const tails = fc
  .tuple(
    fc.option(speed),
    fc.option(time),
    fc.option(condition),
    fc.option(time),
    fc.option(fc.constantFrom("stop", "coast")),
  )
  .map(([at, forTime, until, limit, ending]) =>
    [
      at && `at ${at}`,
      forTime && `for ${forTime}`,
      until && `until ${until}`,
      limit && `limit ${limit}`,
      ending && `then ${ending}`,
    ]
      .filter(Boolean)
      .join(" "),
  );

const simple = fc.oneof(
  fc.tuple(fc.constantFrom("go", "back"), length, tails).map((parts) => parts.join(" ").trim()),
  fc.tuple(side, angle).map(([s, a]) => `turn ${s} ${a}`),
  fc.tuple(side, angle, side).map(([s, a, w]) => `turn ${s} ${a} about ${w} wheel`),
  fc.tuple(side, angle, length).map(([s, a, r]) => `arc back ${s} ${a} radius ${r}`),
  fc.tuple(speed, side, number).map(([v, s, r]) => `roll ${v} turning ${s} ${r} deg/s for 1 s`),
  fc.tuple(speed, speed, time).map(([l, r, t]) => `wheels left ${l} right ${r} for ${t}`),
  fc.tuple(fc.integer({ min: -100, max: 100 }), time).map(([p, t]) => `power both ${p} % for ${t}`),
  condition.map((c) => `wait until ${c}`),
  time.map((t) => `wait ${t}`),
  fc
    .tuple(fc.constantFrom("left edge", "right edge"), speed, time)
    .map(([edge, v, t]) => `follow line on ${edge} with floor.left at ${v} for ${t} limit 90 s`),
  condition.map((c) => `follow line on centre with floor until ${c}`),
  fc
    .tuple(number, length, fc.constantFrom("straight", "left", "right"), time)
    .map(([n, l, way, t]) => `follow line on centre with floor gain ${n} % bridge ${l} at crossings ${way} for ${t}`),
  fc.tuple(side, length).map(([s, l]) => `follow wall on ${s} ${l} away with eye at corners turn until wall ends`),
  fc.tuple(length, length, side, angle).map(([x, y, s, a]) => `go to ${x}, -${y} facing ${s} ${a}`),
  fc.tuple(length, length, speed).map(([x, y, v]) => `go back to ${x}, ${y} at ${v} then stop`),
  fc.tuple(length, speed).map(([l, v]) => `go along round look ${l} at ${v}`),
  fc.tuple(length, number).map(([l, n]) => `add ${l} * ${n} + looks.sum to looks`),
  fc.tuple(number, length).map(([, l]) => `set looks[1] = ${l} ^ 2 / ${l}`),
  fc.tuple(number).map(([n]) => `note n = "at:" + robot.x + mod(${n}, 7) * pi`),
  fc.tuple(condition, time, time).map(([c, t, l]) => `wait until ${c} for ${t} limit ${l}`),
  fc.tuple(number, time).map(([n, t]) => `beep ${n} Hz for ${t}`),
  fc.constantFrom("go to begin facing begin", "go back along round", "clear looks", "stop look", "set worth[red] = 3"),
  fc.tuple(side, length, time).map(([s, l, t]) => `follow wall on ${s} ${l} away with eye for ${t}`),
  fc.tuple(fc.constantFrom("to", "by"), angle).map(([how, a]) => `move arm ${how} ${a} at 90 deg/s`),
  fc.tuple(side, angle).map(([s, a]) => `aim head to ${s} ${a}`),
  fc
    .tuple(angle, angle, fc.integer({ min: 2, max: 9 }))
    .map(([a, b, n]) => `scan head from left ${a} to right ${b} with ${n} looks`),
  fc.tuple(fc.integer({ min: 0, max: 100 }), condition).map(([n, c]) => `show clock, ${n} %, ${c}`),
  fc.constantFrom("press forward", "press back limit 3 s", "home arm toward low", "beep", "light 40 %", "reset robot"),
  fc.constantFrom("send ready", "wait until heard ready limit 1 s", "start look()", "look()", "steer left 10 deg"),
  fc.constantFrom("stop", "finish", "coast", "face begin", "face begin left 30 deg", "note here = robot.x"),
);

function indent(lines: string[]): string[] {
  return lines.map((line) => (line === "" ? "" : `  ${line}`));
}

const block: fc.Memo<string[]> = fc.memo((depth) => {
  const item: fc.Arbitrary<string[]> =
    depth <= 1
      ? simple.map((line) => [line])
      : fc.oneof(
          { weight: 6, arbitrary: simple.map((line) => [line]) },
          { weight: 1, arbitrary: simple.map((line) => ["# why", `${line}  # because`]) },
          {
            weight: 1,
            arbitrary: fc
              .tuple(fc.integer({ min: 0, max: 5 }), block(depth - 1))
              .map(([n, body]) => [`repeat ${n} times`, ...indent(body)]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(fc.constantFrom("repeat 3 times as pass", "repeat for each one in looks"), block(depth - 1))
              .map(([head, body]) => [head, ...indent(body)]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(fc.constantFrom("while", "until"), condition, block(depth - 1))
              .map(([how, c, body]) => [`repeat ${how} ${c}`, ...indent(body)]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(condition, block(depth - 1), block(depth - 1))
              .map(([c, yes, no]) => [`if ${c}`, ...indent(yes), "else", ...indent(no)]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(condition, block(depth - 1), block(depth - 1))
              .map(([c, body, handler]) => [
                "during",
                ...indent(body),
                `whenever ${c}`,
                ...indent([...handler, "resume"]),
              ]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(fc.constantFrom("together", "together until one ends"), block(depth - 1), block(depth - 1))
              .map(([head, one, other]) => [head, ...indent(one), "# beside it", "also", ...indent(other)]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(condition, time, block(depth - 1))
              .map(([c, t, body]) => [`every 20 ms until ${c} limit ${t}`, ...indent([...body, "next"])]),
          },
          {
            weight: 1,
            arbitrary: fc
              .tuple(length, length, block(depth - 1), block(depth - 1), block(depth - 1))
              .map(([a, b, one, two, other]) => [
                "choose robot.travel",
                ...indent([`is ${a} to ${b} or ${b}`, ...indent(one)]),
                ...indent([`< ${a}`, ...indent(two)]),
                ...indent(["otherwise", ...indent(other)]),
              ]),
          },
        );
  return fc.array(item, { minLength: 1, maxLength: 5 }).map((items) => items.flat());
});

/** Text of a grammatical mission in canonical layout. */
export const missionText: fc.Arbitrary<string> = fc
  .tuple(fc.boolean(), block(3))
  .map(([blank, body]) =>
    [
      "cairn 1",
      'robot "Drizzle"',
      ...(blank ? [""] : []),
      "set far = 30 cm",
      "remember learned = 3 cm",
      "list looks of length, at most 7, rolling",
      "table worth of number by colour, at most 8",
      "path round",
      "  40 cm, 0 cm",
      "  40 cm, -30 cm",
      "",
      "routine look(many: number = 2)",
      "  wait 0.1 s * many",
      "  give far",
      "",
      "mission",
      ...indent(body),
      "",
    ].join("\n"),
  );

/** A mission's text with some of its characters cut, doubled or replaced. */
export const mutatedText: fc.Arbitrary<string> = fc
  .tuple(
    missionText,
    fc.array(
      fc.tuple(
        fc.nat(),
        fc.nat(12),
        fc.constantFrom(
          "",
          " ",
          "\n",
          "\t",
          "(",
          ")",
          '"',
          "#",
          "left",
          "30",
          "%",
          ".",
          "-",
          "until",
          "if",
          "\n  repeat",
          "é",
          "𝟛",
        ),
      ),
      { minLength: 1, maxLength: 6 },
    ),
  )
  .map(([text, cuts]) =>
    cuts.reduce((damaged, [at, count, insert]) => {
      const place = damaged.length === 0 ? 0 : at % damaged.length;
      return damaged.slice(0, place) + insert + damaged.slice(place + count);
    }, text),
  );
