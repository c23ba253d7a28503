// Straightens the picture of a mat, away from the page; says how far it is, and stops when it is told.
import "../shared/noEval.js";
import { fittingPng, straighten } from "@giddy-pebble/core";
import { matAskSchema } from "./matProtocol.js";

self.onmessage = (event: MessageEvent<unknown>) => {
  const { width, height, data, mat } = matAskSchema.parse(event.data);
  try {
    const picture = straighten({ width, height, data: new Uint8Array(data) }, mat, (share) => {
      self.postMessage({ kind: "progress", share });
      return true;
    });
    if (!picture) return self.postMessage({ kind: "failed", problem: "The picture was not straightened." });
    const png = fittingPng(picture);
    if (!png)
      return self.postMessage({
        kind: "failed",
        problem: "The picture holds too much to be kept. Make its mat smaller.",
      });
    self.postMessage({ kind: "done", columns: picture.columns, rows: picture.rows, png: png.buffer }, [
      png.buffer,
    ] as never);
  } catch (error) {
    self.postMessage({ kind: "failed", problem: error instanceof Error ? error.message : String(error) });
  }
};
