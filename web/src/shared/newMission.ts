// The text a new mission begins with.

/** @param named - what it names: the robot, the field and the begin place, where there are any */
export function missionText(named: {
  readonly robot?: string | undefined;
  readonly field?: string | undefined;
  readonly begin?: string | undefined;
}): string {
  const headers = (["robot", "field", "begin"] as const).flatMap((word) => {
    const name = named[word];
    return name === undefined ? [] : [`${word} "${name}"`];
  });
  return ["cairn 1", ...headers, "", "mission", "  wait 1 s", ""].join("\n");
}
