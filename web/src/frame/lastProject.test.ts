import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Project } from "../api/client";
import { firstOf } from "./lastProject";

const project = (name: string, is_away = false): Project => ({
  name,
  title: name,
  usual: [],
  is_away,
  takes_newer: false,
  delivers_changes: false,
});
let last: string | null = null;
beforeEach(() => {
  last = null;
  vi.stubGlobal("localStorage", { getItem: () => last });
});

describe("the project that is opened first", () => {
  const both = [project("demo"), project("ruche")];
  it("is the one of last time, else the oldest", () => {
    expect(firstOf(both).name).toBe("demo");
    last = "ruche";
    expect(firstOf(both).name).toBe("ruche");
    last = "gone since";
    expect(firstOf(both).name).toBe("demo");
  });

  it("is one that was put away only where there is no other", () => {
    last = "demo";
    expect(firstOf([project("demo", true), project("ruche")]).name).toBe("ruche");
    expect(firstOf([project("demo", true)]).name).toBe("demo");
  });
});
