import createClient from "openapi-fetch";
import { ask } from "../parts/ask";
import { Refusal } from "../parts/failures";
import type { components, paths } from "./schema";

export type TextureSet = components["schemas"]["TextureSet"];
export type Project = components["schemas"]["Project"];
export type Recipe = components["schemas"]["Recipe-Output"];
export type FileLook = components["schemas"]["FileLook"];
export type PlanRequest = components["schemas"]["PlanRequest"];
export type Plan = components["schemas"]["Plan"];
export type Finding = components["schemas"]["Finding"];
export type AssayRow = components["schemas"]["AssayRow"];
export type Control = components["schemas"]["Control"];
export type Operation = components["schemas"]["OperationRow"];
export type Target = components["schemas"]["Target-Output"];
export type Board = components["schemas"]["Board"];
export type Quantity = components["schemas"]["QuantityRow"];
export type FormatRow = components["schemas"]["FormatRow"];
export type FileReading = components["schemas"]["FileReading"];
export type Arranged = components["schemas"]["ArrangedRow"];
export type SetReading = components["schemas"]["SetReadingRow"];
export type IntakeEntry = components["schemas"]["IntakeEntry"];
export type Delivery = components["schemas"]["Delivery"];
export type DeliveryLine = components["schemas"]["DeliveryLine"];
export type Sent = DeliveryLine["sent"][number];

export const api = createClient<paths>({ fetch: ask });

/** Unwrap an answer; a problem document becomes an Error with its sentence. */
export async function settled<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await asked;
  if (error !== undefined) throw new Refusal(reasonIn(error), response.status);
  return data as T; // of an answer without a body T itself is nothing
}

const reasonIn = (problem: unknown): string =>
  typeof problem === "object" &&
  problem !== null &&
  "detail" in problem &&
  typeof problem.detail === "string"
    ? problem.detail
    : "The server gave no reason.";

/** Send a file's bytes as they are, and have the answer; a refusal is thrown with its sentence. */
export async function sendBytes<T>(path: string, file: File): Promise<T> {
  const response = await ask(path, {
    method: "POST",
    headers: { "content-type": "application/octet-stream" },
    body: file,
  });
  const answer = await response.json();
  if (!response.ok) throw new Error(answer.detail);
  return answer;
}

/**
 * What one dropped file is, or each file of a zip: pictures, meshes, and what is wrong with a mesh.
 */
export type Kept = components["schemas"]["ArchiveLook"];

/** Send one file's bytes as they are; the answer says what they are. */
export async function keepFile(file: File, folder: string, profile: string | null): Promise<Kept> {
  const isZip = file.name.toLowerCase().endsWith(".zip");
  const query = new URLSearchParams({
    name: file.name,
    ...(isZip || !folder ? {} : { folder }),
    ...(profile === null ? {} : { profile }),
  });
  const kept = isZip
    ? await sendBytes<Kept>(`/api/archives?${query}`, file)
    : {
        files: [await sendBytes<FileLook>(`/api/originals?${query}`, file)],
        meshes: [],
        problems: [],
        saved: [],
      };
  return { ...kept, files: await withLayers(kept.files, folder, profile) };
}

/** The layers of a file that was kept, each kept as a file of its own. */
export const layersOf = (look: FileLook, folder = "", profile: string | null = null) =>
  settled(
    api.POST("/api/originals/{sha256}/layers", {
      params: {
        path: { sha256: look.sha256 },
        query: { name: look.name, folder, ...(profile === null ? {} : { profile }) },
      },
    }),
  );

/** Looks with the layers of those that are meant by layer behind them. */
export const withLayers = async (looks: FileLook[], folder: string, profile: string | null) =>
  (
    await Promise.all(
      looks.map(async (look) =>
        look.is_by_layers ? [look, ...(await layersOf(look, folder, profile))] : [look],
      ),
    )
  ).flat();
