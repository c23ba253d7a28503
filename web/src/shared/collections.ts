// Collections of routines as they are now.
import { api, type DocumentView } from "./api.js";

/** Texts of the collections among some documents, by name; of those that were changed and not saved, the draft. */
export async function collectionTexts(library: readonly DocumentView[]): Promise<ReadonlyMap<string, string>> {
  const views = library.filter(({ kind }) => kind === "collection");
  const opened = await Promise.all(views.map(({ id }) => api.open(id)));
  return new Map(
    opened.flatMap((found, i) => {
      const text = found.ok ? (found.value.draft?.text ?? found.value.head.text) : null;
      return text === null ? [] : [[views[i]?.name ?? "", text] as const];
    }),
  );
}
