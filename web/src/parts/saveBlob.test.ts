import { expect, it, vi } from "vitest";
import { nameIn, saveBlob } from "./saveBlob";

it("finds the name of a file with accents and spaces", () => {
  expect(nameIn("attachment; filename*=UTF-8''Soie%20bleut%C3%A9e_height.png")).toBe(
    "Soie bleutée_height.png",
  );
  expect(nameIn("")).toBe("map");
});

it("throws what the server says where there is no file", async () => {
  const refused = new Response(JSON.stringify({ detail: "There is no height." }), { status: 422 });
  vi.stubGlobal("fetch", async () => refused);
  await expect(saveBlob("/api/x")).rejects.toThrow("There is no height.");
  vi.unstubAllGlobals();
});
