// The open mission's draft on the server, and the revisions cut from it.
import { api, type OpenView } from "../api.js";
import { DraftSaver, type SaveBase } from "../saving.js";
import { beforeLeaving, inTurn, whenLeft } from "../visit.js";
import { useMission } from "./state.js";

const get = useMission.getState;
const set = useMission.setState;
let saver: DraftSaver | null = null;

/** From here on, typed text is saved for this document. */
export function openDraft(base: SaveBase): void {
  saver = new DraftSaver(base, (save) => set({ save }), api.saveDraft);
}

/** Saves what waits, then lets go of the document. */
export async function closeDraft(): Promise<void> {
  await saver?.flush();
  saver?.dispose();
  saver = null;
}

beforeLeaving(async () => saver?.flush());
whenLeft(() => {
  saver?.dispose();
  saver = null;
});

/** Every change of text; during a conflict it is kept on this computer until that is settled. */
export function typed(text: string): void {
  if (get().save.is === "conflict") saver?.hold(text);
  else saver?.typed(text);
}

/** Two at once would be over the same version, and the later one would be refused as another window's. */
const cutting = inTurn();

/** Saves the draft and cuts a revision of it; null when that was not possible, which the state then says. */
export function cutRevision(text: string, reason: string, name: string | null = null): Promise<OpenView | null> {
  return cutting(() => cutNow(text, reason, name));
}

async function cutNow(text: string, reason: string, name: string | null): Promise<OpenView | null> {
  const { open } = get();
  if (!open || !saver) return null;
  await saver.flush();
  const { baseRevision, draftVersion } = saver.current;
  const cut = await api.cutRevision(open.id, baseRevision, text, reason, draftVersion, name);
  if (cut.ok) {
    adopt(cut.value);
    return cut.value;
  }
  if (cut.code === "stale" && cut.current) set({ save: { is: "conflict", theirs: cut.current } });
  else if (cut.code === "unreachable") set({ save: { is: "away", message: cut.message } });
  else set({ message: cut.message });
  return null;
}

/** Takes over the server's numbers after a save. */
export function adopt(opened: OpenView): void {
  const { document, draft } = opened;
  saver?.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
  set({ open: { id: document.id, name: document.name, headRevision: document.headRevision }, save: { is: "saved" } });
}
