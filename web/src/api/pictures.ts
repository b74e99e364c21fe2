import { api, answerOf } from "@/api/client";
import type { BenchSent, Late } from "@/api/types";

const LONGEST_SIDE_PX = 2400;
const QUALITY = 0.92;
/** A picture is larger than any other answer. */
const ANSWER_WITHIN_MS = 60_000;

/** Draw a picture anew, upright and no larger than the record keeps it; null when it is none. */
export async function drawnSmall(file: Blob): Promise<ArrayBuffer | null> {
  const picture = await createImageBitmap(file).catch(() => null);
  if (picture === null) return null;
  const scale = Math.min(1, LONGEST_SIDE_PX / Math.max(picture.width, picture.height));
  const canvas = new OffscreenCanvas(
    Math.max(1, Math.round(picture.width * scale)),
    Math.max(1, Math.round(picture.height * scale)),
  );
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  return (await canvas.convertToBlob({ type: "image/jpeg", quality: QUALITY })).arrayBuffer();
}

/** A picture as the body of a request. */
function asFile(picture: ArrayBuffer): {
  body: string;
  bodySerializer: (body: unknown) => ArrayBuffer;
  headers: Record<string, string>;
  signal: AbortSignal;
} {
  return {
    body: picture as unknown as string,
    bodySerializer: (body: unknown) => body as ArrayBuffer,
    headers: { "Content-Type": "image/jpeg" },
    signal: AbortSignal.timeout(ANSWER_WITHIN_MS),
  };
}

/** Send a picture of a call. */
export function sendPicture(
  run: string,
  of: { id: string; cell: string },
  picture: ArrayBuffer,
  late: Late | null,
): Promise<BenchSent> {
  const params = { path: { run_id: run }, query: { id: of.id, cell: of.cell, ...late } };
  return answerOf(api.POST("/api/runs/{run_id}/photos", { params, ...asFile(picture) }));
}

/** Keep the photograph of a sheet of paper; its name is what the lines that stand on it carry. */
export async function keepSheet(overhaul: string, picture: ArrayBuffer): Promise<string> {
  const params = { path: { overhaul_id: overhaul } };
  const kept = api.POST("/api/overhauls/{overhaul_id}/photos", { params, ...asFile(picture) });
  return (await answerOf(kept)).photo;
}
