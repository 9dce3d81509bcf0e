import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { DropBox } from "./DropBox";

const IDLE = { left: 0, of: 0 };
const box = (isEmpty: boolean, busy = IDLE, folders: object[] = []) =>
  drawn(<DropBox isEmpty={isEmpty} busy={busy} onFiles={() => {}} onFolder={() => {}} />, [
    [["folders"], folders],
  ]);

describe("the other ways to give files", () => {
  it("say everything that can be dropped while nothing was", () => {
    expect(box(true).text).toContain(
      "Drop pictures, meshes, folders or zips anywhere in the window",
    );
    expect(box(false).text).toContain("Drop more anywhere in the window");
  });

  it("say how far reading is, and nothing once all is read", () => {
    const { html, text } = box(false, { left: 3, of: 12 });
    expect(text).toContain("3 of 12 still being read");
    expect(html).toMatch(/<progress[^>]*value="9"/);
    expect(box(false).html).not.toContain("<progress");
  });

  it("offer a folder of the server where there is one", () => {
    expect(box(true, IDLE, [{ place: "0/Ruche", pictures: 4 }]).html).toContain(
      "A folder on the server",
    );
    expect(box(true).html).not.toContain("A folder on the server");
  });
});
