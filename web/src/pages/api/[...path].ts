import type { APIRoute } from "astro";
import { problem } from "../../server/http.js";

/** Every address under /api that nothing answers at. */
export const ALL: APIRoute = () =>
  problem(
    404,
    "no-such-address",
    "Not found",
    "There is nothing at this address. docs/formats.md lists what there is.",
  );
