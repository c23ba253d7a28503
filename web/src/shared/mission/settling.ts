// Two windows on one mission: the three ways on. Whichever is taken, both versions stay somewhere.
import { api } from "../api.js";
import { forgetUnsaved } from "../unsaved.js";
import { adopt, typed } from "./draft.js";
import { reduce } from "./history.js";
import { useMission } from "./state.js";
import { afterText, createFrom } from "./store.js";

const get = useMission.getState;
const set = useMission.setState;

/** Conflict, first way out: mine becomes a mission of its own, theirs stays. */
export async function keepBoth(): Promise<void> {
  const { open, history, missions } = get();
  if (!open) return;
  const names = new Set(missions.map((mission) => mission.name));
  let number = 2;
  while (names.has(`${open.name} (${number})`)) number += 1;
  const mine = history.present.text;
  const mineKept = open.id;
  const failed = await createFrom(`${open.name} (${number})`, mine, "kept beside another window's version");
  if (failed === null) await forgetUnsaved(mineKept, mine);
  set({ message: failed ?? `Both versions are kept: yours is now "${open.name} (${number})".` });
}

/** Second: theirs is cut as a revision, so that it can be found again, and mine goes on top. */
export async function keepMine(): Promise<void> {
  const { open, save, history } = get();
  if (!open || save.is !== "conflict") return;
  const { document, draft, head } = save.theirs;
  const theirText = draft?.text ?? head.text ?? "";
  const cut = await api.cutRevision(
    open.id,
    document.headRevision,
    theirText,
    "kept before another window's version replaced it",
    draft?.version ?? 0,
  );
  if (!cut.ok) {
    if (cut.current) set({ save: { is: "conflict", theirs: cut.current } });
    return set({ message: cut.message });
  }
  adopt(cut.value);
  set({ message: `The other window's version is kept as version ${cut.value.head.number}; yours goes on from it.` });
  typed(history.present.text);
}

/** Third: theirs replaces mine here; mine stays in the undo history. */
export function takeTheirs(): void {
  const { save } = get();
  if (save.is !== "conflict") return;
  const { draft, head } = save.theirs;
  const mine = get().history.present.text;
  adopt(save.theirs);
  const documentId = save.theirs.document.id;
  const history = reduce(get().history, {
    type: "edit",
    text: draft?.text ?? head.text ?? "",
    label: "taking the other window's version",
  });
  set({ history, message: "The other window's version is open. Undo brings yours back." });
  void forgetUnsaved(documentId, mine);
  afterText();
}
