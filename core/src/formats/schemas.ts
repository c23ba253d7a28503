// The published JSON Schemas of our document formats, made from the schemas the program itself reads with.
import * as z from "zod";
import { fieldSchema } from "../field/schema.js";
import { robotSchema } from "../robot/schema.js";

/** JSON Schema (draft 2020-12) by document kind; what a file may leave out has its default here. */
export function documentSchemas(): Record<"robot" | "field", object> {
  const options = { io: "input", unrepresentable: "any" } as const;
  return { robot: z.toJSONSchema(robotSchema, options), field: z.toJSONSchema(fieldSchema, options) };
}
