import { useQuery } from "@tanstack/react-query";
import { api, type FileLook, settled } from "../../api/client";
import { Menu } from "../../parts/Menu";
import { wholeOf } from "./rows";

type ReadAsProps = { look: FileLook; onChange: (look: Partial<FileLook>) => void };

/** Read all channels of a file at once, in the order of a file that a target names. */
export function ReadAs({ look, onChange }: ReadAsProps) {
  const { data: readings = [] } = useQuery({
    queryKey: ["readings"],
    queryFn: () => settled(api.GET("/api/readings")),
    staleTime: Infinity,
  });
  const fitting = readings.filter((row) => row.channels === (look.letters ?? "L").length);
  if (!fitting.length) return <span>No target has such a file.</span>;
  const handlePick = (at: string) => {
    const reading = fitting[Number(at)];
    onChange({
      kind: wholeOf(reading.reads),
      reads: reading.reads,
      spans: reading.spans,
      green: reading.green,
    });
  };
  return (
    <Menu
      label="Read it as the file of a target"
      options={fitting.map((r, k) => [String(k), `${r.title} — ${r.target}`] as const)}
      onPick={handlePick}
    />
  );
}
