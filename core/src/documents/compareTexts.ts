// Lines of two texts side by side: which stayed, which went, which came.

type LineChange = { readonly is: "same" | "gone" | "new"; readonly text: string; readonly line: number };

/** By a longest common subsequence of lines. */
export function compareTexts(before: string, after: string): LineChange[] {
  const a = before.replace(/\n$/, "").split("\n");
  const b = after.replace(/\n$/, "").split("\n");
  const width = b.length + 1;
  const common = new Uint16Array((a.length + 1) * width);
  for (let i = a.length - 1; i >= 0; i -= 1)
    for (let j = b.length - 1; j >= 0; j -= 1)
      common[i * width + j] =
        a[i] === b[j]
          ? (common[(i + 1) * width + j + 1] as number) + 1
          : Math.max(common[(i + 1) * width + j] as number, common[i * width + j + 1] as number);
  const changes: LineChange[] = [];
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    if (i < a.length && j < b.length && a[i] === b[j]) {
      changes.push({ is: "same", text: a[i] as string, line: j });
      i += 1;
      j += 1;
    } else if (
      j >= b.length ||
      (i < a.length && (common[(i + 1) * width + j] as number) >= (common[i * width + j + 1] as number))
    ) {
      changes.push({ is: "gone", text: a[i] as string, line: i });
      i += 1;
    } else {
      changes.push({ is: "new", text: b[j] as string, line: j });
      j += 1;
    }
  }
  return changes;
}
