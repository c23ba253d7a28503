// Keeps a document's draft on the server: one save at a time, newest text wins, nothing typed is lost while
// the server is away, and a save over somebody else's newer draft becomes a conflict to settle.
import type { Answer, OpenView } from "./api.js";
import { forgetUnsaved, keepUnsaved } from "./unsaved.js";

export type SaveState =
  | { readonly is: "saved" }
  | { readonly is: "saving" }
  | { readonly is: "away"; readonly message: string }
  | { readonly is: "refused"; readonly message: string }
  | { readonly is: "conflict"; readonly theirs: OpenView };

const PAUSE_MS = 350;
const RETRY_MS = 2000;
/** Failures that pass by themselves, or once somebody makes room on the disk: the save is tried again until then. */
const PASSING: ReadonlySet<string> = new Set(["unreachable", "unreadable", "database-away", "disk-full", "failed"]);

export interface SaveBase {
  readonly documentId: string;
  readonly baseRevision: number;
  readonly draftVersion: number;
}

/** Sends a draft as text; how a document is written as text is its workplace's affair. */
type SendDraft = (
  documentId: string,
  baseRevision: number,
  text: string,
  overVersion: number,
) => Promise<Answer<{ version: number }>>;

const NOT_KEPT =
  "The server does not answer, and this browser could not keep what you typed. Leave this page open: it is saved as soon as the server answers.";

export class DraftSaver {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private running: Promise<void> | null = null;
  private wanted: string | null = null;
  /** Whether what was typed last is kept on this computer. */
  private held: Promise<boolean> = Promise.resolve(true);

  constructor(
    private base: SaveBase,
    private readonly onState: (state: SaveState) => void,
    private readonly send: SendDraft,
  ) {}

  get current(): SaveBase {
    return this.base;
  }

  /** After a revision was cut or a conflict settled. */
  rebase(base: SaveBase): void {
    this.base = base;
  }

  /** Keeps a text on this computer only: during a conflict the server's is not written over. */
  hold(text: string): void {
    const { documentId, baseRevision, draftVersion } = this.base;
    this.held = keepUnsaved({ documentId, text, baseRevision, overVersion: draftVersion, typedAt: Date.now() });
  }

  /** Called with every change of text. */
  typed(text: string): void {
    this.wanted = text;
    this.hold(text);
    this.onState({ is: "saving" });
    this.schedule(PAUSE_MS);
  }

  /** Saves at once what is waiting; resolves when nothing runs any more. */
  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    await this.running;
    await this.save();
  }

  dispose(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.wanted = null;
  }

  private schedule(ms: number): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      this.timer = null;
      void this.save();
    }, ms);
  }

  private async save(): Promise<void> {
    if (this.running) return this.running;
    if (this.wanted === null) return;
    this.running = this.saveNow(this.wanted).finally(() => {
      this.running = null;
    });
    await this.running;
  }

  /** Whether what was typed last is kept here, also when it is typed while this waits. */
  private async newestHeld(): Promise<boolean> {
    for (;;) {
      const { held } = this;
      const kept = await held;
      if (held === this.held) return kept;
    }
  }

  private async saveNow(text: string): Promise<void> {
    const { documentId, baseRevision, draftVersion } = this.base;
    const saved = await this.send(documentId, baseRevision, text, draftVersion);
    if (saved.ok) {
      this.base = { ...this.base, draftVersion: saved.value.version };
      await forgetUnsaved(documentId, text);
      if (this.wanted !== text) return this.schedule(0);
      this.wanted = null;
      return this.onState({ is: "saved" });
    }
    if (saved.code === "stale" && saved.current) {
      this.wanted = null;
      return this.onState({ is: "conflict", theirs: saved.current });
    }
    if (PASSING.has(saved.code)) {
      this.onState({ is: "away", message: (await this.newestHeld()) ? saved.message : NOT_KEPT });
      return this.schedule(RETRY_MS);
    }
    this.wanted = null;
    this.onState({ is: "refused", message: saved.message });
  }
}
