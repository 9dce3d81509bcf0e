import { useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useState } from "react";
import { useNavigate } from "react-router";
import { api, type FileLook, keepFile, settled } from "../api/client";

const KINDS: [string, string][] = [["base_color", "Base color"], ["photo", "Photo"], ["normal", "Normal"], ["height", "Height"], ["roughness", "Roughness"], ["gloss", "Gloss"],
  ["metallic", "Metallic"], ["occlusion", "Ambient occlusion"], ["opacity", "Opacity"], ["emissive", "Emissive"], ["reflectance", "Reflectance"], ["curvature", "Curvature"], ["packed", "Channels apart"]];

/** What every dropped file is, why we think so, and one button that makes sets of them. */
export function Intake({ project }: { project: string }) {
  const [files, setFiles] = useState<FileLook[]>([]);
  const [busy, setBusy] = useState(0);
  const [over, setOver] = useState(false);
  const [problems, setProblems] = useState<string[]>([]);
  const navigate = useNavigate();
  const queries = useQueryClient();

  const handleFiles = async (dropped: File[]) => {
    setProblems(dropped.length ? [] : ["Nothing was dropped: choose at least one picture file."]);
    setBusy((n) => n + dropped.length);
    for (const file of dropped) {
      try {
        const look = await keepFile(file);
        setFiles((now) => [...now.filter((f) => f.sha256 !== look.sha256 || f.name !== look.name), look]);
      } catch (problem) {
        setProblems((now) => [...now, `${file.name}: ${(problem as Error).message}`]);
      } finally {
        setBusy((n) => n - 1);
      }
    }
  };
  const handleDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void handleFiles([...event.dataTransfer.files]);
  };
  const change = (file: FileLook, kind: string) => setFiles((now) => now.map((f) => (f === file ? { ...f, kind, reads: {} } : f)));
  const usable = files.filter((f) => f.readable && f.kind !== "unknown");
  const groups = [...new Set(usable.map((f) => f.set_name))];

  const handleTakeIn = async () => {
    const failed: string[] = [];
    let last = "";
    for (const name of groups) {
      const own = usable.filter((f) => f.set_name === name);
      const entries = own.map((f) => ({ sha256: f.sha256, name: f.name, kind: f.kind ?? "unknown", green: f.green === "unsure" ? null : f.green }));
      try {
        last = (await settled(api.POST("/api/projects/{project}/sets", { params: { path: { project } }, body: { name, entries } }))).id;
        setFiles((now) => now.filter((f) => !own.includes(f)));
      } catch (problem) {
        failed.push((problem as Error).message);
      }
    }
    setProblems(failed);
    await queries.invalidateQueries({ queryKey: ["sets", project] });
    if (!failed.length) navigate(`/p/${project}/bench/${last}`);
  };

  return (
    <main>
      <h1>{files.length ? `${files.length} files, ${groups.length} sets` : "Intake"}</h1>
      <div className="drop" data-over={over} onDragOver={(e) => { e.preventDefault(); setOver(true); }} onDragLeave={() => setOver(false)} onDrop={handleDrop}>
        <span>Drop pictures here</span>
        <input type="file" multiple aria-label="Choose files" onChange={(e) => void handleFiles([...(e.target.files ?? [])])} />
        {busy > 0 && <span role="status">{busy} still being read…</span>}
        {groups.length > 0 && <button className="primary" disabled={busy > 0} onClick={() => void handleTakeIn()}>Take in {groups.length} {groups.length === 1 ? "set" : "sets"}</button>}
      </div>
      {problems.map((text) => <p key={text} role="alert" className="stop">{text}</p>)}
      {files.length > 0 && (
        <table>
          <thead><tr><th /><th>File</th><th>Set</th><th>Is</th><th>Size</th><th>Sure</th><th>Because</th></tr></thead>
          <tbody>
            {files.map((file) => (
              <tr key={file.sha256 + file.name}>
                <td>{file.readable && <img alt="" src={`/api/originals/${file.sha256}/thumbnail`} />}</td>
                <td className="mono">{file.name}</td>
                <td>{file.set_name}</td>
                <td>{file.readable ? (
                  <select aria-label={`What ${file.name} is`} value={file.kind} onChange={(e) => change(file, e.target.value)}>
                    <option value="unknown">Which?</option>
                    {KINDS.map(([key, title]) => <option key={key} value={key}>{title}</option>)}
                  </select>
                ) : <span className="stop">not read</span>}</td>
                <td>{file.readable && `${file.width} × ${file.height}, ${file.depth} bit ${file.letters}`}</td>
                <td>{file.readable && `${Math.round((file.confidence ?? 0) * 100)} %`}</td>
                <td>{file.because?.join("; ")}{file.findings?.map((f) => <div key={f.id} className={f.grade}>{f.text}</div>)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
