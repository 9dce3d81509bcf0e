import { useRef } from "react";
import { api, settled, type TextureSet } from "../../api/client";
import { useSetChange, useSets } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import type { components } from "../../api/schema";

type HowMade = components["schemas"]["WaysRequest"]["ways"];

/** Make this set as another one is made, or as a file says; or keep its ways as a file. Given maps stay. */
export function Ways({ set, project }: { set: TextureSet; project: string }) {
  const { data: sets = [] } = useSets(project);
  const file = useRef<HTMLInputElement>(null);
  const path = { params: { path: { set_id: set.id } } };
  const take = useSetChange(project, set.id, async (expects, source: { set: string } | { file: File }) => {
    const ways = "set" in source ? await settled(api.GET("/api/sets/{set_id}/ways", { params: { path: { set_id: source.set } } })) : await readWays(source.file);
    return settled(api.POST("/api/sets/{set_id}/ways", { ...path, body: { expects, ways } }));
  });
  return (
    <>
      <div className="flex items-center gap-1.5">
        <span className="w-[70px] shrink-0">Make it</span>
        <Choice label="As another set is made" className="w-36" value="" onChange={(id) => id && take.mutate({ set: id })} options={[["", "as another set"], ...sets.filter((s) => s.id !== set.id).map((s) => [s.id, s.name] as const)]} />
        <input ref={file} type="file" accept=".json" aria-label="As a file says" className="sr-only" onChange={(e) => { const chosen = e.target.files?.[0]; if (chosen) take.mutate({ file: chosen }); e.target.value = ""; }} />
        <button className="button" onClick={() => file.current!.click()}>From a file</button>
        <a className="button" href={`/api/sets/${set.id}/ways`} download={`${set.name} ways.json`} title="Keep how this set is made as a file">Keep</a>
      </div>
      <Problem error={take.error} />
    </>
  );
}

async function readWays(file: File): Promise<HowMade> {
  try {
    return JSON.parse(await file.text()) as HowMade; // what it says is checked by the server
  } catch {
    throw new Error(`${file.name} is no file of ways: it holds no JSON. Choose one that Keep has made.`);
  }
}
