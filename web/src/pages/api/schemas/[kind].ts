import { documentSchemas } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { otherMethods, problem } from "../../../server/http.js";

/** The published JSON Schema of a document format: robot or field. */
export const GET: APIRoute = ({ params }) => {
  const schemas = documentSchemas();
  const kind = params.kind ?? "";
  if (kind !== "robot" && kind !== "field")
    return problem(404, "not-found", "Not found", "There are schemas for robot and field.");
  return new Response(JSON.stringify(schemas[kind], null, 2), {
    headers: { "content-type": "application/schema+json" },
  });
};

export const ALL = otherMethods({ GET });
