import { expect, it } from "vitest";
import { drawn } from "../../drawn";
import { Choices } from "./Choices";

const rows = (count: number) =>
  Array.from({ length: count }, (_, k) => ({ key: `${k}`, name: `stuff ${k}` }));
const choices = (count: number) =>
  drawn(<Choices title="Sets" rows={rows(count)} chosen={["1"]} onChoice={() => {}} />);

it("can be searched where it is long, and scrolls by itself where hundreds stand in it", () => {
  expect(choices(5).html).not.toContain("Search sets");
  expect(choices(20).html).toContain("Search sets");
  expect(choices(20).html).not.toContain("overflow-auto");
  const { html, text } = choices(300);
  expect(html).toContain("overflow-auto");
  expect(text).toContain("1 of 300");
});
