import type { APIRoute } from "astro";
import { readBytes } from "../../server/bodies.js";
import { handle, otherMethods, problem } from "../../server/http.js";
import { takePhoto } from "../../server/photoService.js";

const LARGEST = 30 * 1024 * 1024;

/** Keeps a photograph, made smaller and upright, without place and time. */
export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const photo = await takePhoto(team, Buffer.from(await readBytes(context.request, LARGEST)));
    if (!photo.ok) return problem(422, "no-picture", "Not kept", photo.problem);
    const { asset, width, height } = photo;
    return Response.json({ asset, width, height }, { status: 201 });
  });

export const ALL = otherMethods({ POST });
