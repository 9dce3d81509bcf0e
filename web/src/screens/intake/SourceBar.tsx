import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type IntakeEntry, settled } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { usePress } from "../../parts/usePress";
import type { Row } from "./rows";

type SourceBarProps = {
  rows: Row[];
  chosen: string | null;
  kept: number;
  /**
   * Files are still read, or the server has not said yet where they go since they were last
   * changed.
   */
  isBehind: boolean;
  onProfile: (name: string | null) => void;
  lesson: () => IntakeEntry[][];
};

const SEVERAL = "\u0000several"; // no source can be called so

/** Whose files these are: read by what is known of that source, which corrections teach. */
export function SourceBar({ rows, chosen, kept, isBehind, onProfile, lesson }: SourceBarProps) {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const { data: profiles = [] } = useQuery({
    queryKey: ["profiles"],
    queryFn: () => settled(api.GET("/api/profiles")),
  });
  const remember = useMutation({
    mutationFn: (name: string) =>
      settled(
        api.PUT("/api/profiles/{name}", { params: { path: { name } }, body: { sets: lesson() } }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["profiles"] }),
  });
  const groups = [
    ...Map.groupBy(
      rows.filter((row) => row.look.profile),
      (row) => sure(row.look.profile, "the profile"),
    ),
  ].map(([name, files]) => ({ name, files: files.length }));
  const profile = chosen ?? (groups.length === 1 ? groups[0].name : null);
  const isSeveral = chosen === null && groups.length > 1;
  const several = isSeveral ? [[SEVERAL, "Several"] as const] : [];
  const title = (name || profile || "").trim();
  // what was just said is learned too
  const press = usePress<string>(true, isBehind, (title) => remember.mutate(title));
  return (
    <form
      className="mb-2 flex items-center gap-2 text-ink2"
      onSubmit={(e) => {
        e.preventDefault();
        press(title);
      }}
    >
      <span>Source</span>
      <Choice
        label="Source"
        className="w-44 text-ink"
        value={isSeveral ? SEVERAL : (profile ?? "")}
        onChange={(next) => next !== SEVERAL && onProfile(next || null)}
        options={[...several, ["", "Not known"], ...profiles.map((p) => [p.name, p.name] as const)]}
      />
      <span>
        {groups
          .map(
            (group) =>
              `${groups.length > 1 ? `${group.name}: ` : ""}${group.files} of ${rows.length} files`,
          )
          .join(", ")}
      </span>
      {kept > 0 && <span role="status">{kept} of your corrections kept</span>}
      <input
        aria-label="Name of this source"
        className="field ml-auto w-44 text-ink"
        placeholder={profile ?? "Name of this source"}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <button type="submit" className="button text-ink" disabled={!title || remember.isPending}>
        Save as source
      </button>
      {profile && (
        <a
          className="button text-ink"
          href={`/api/profiles/${encodeURIComponent(profile)}`}
          download={`${profile}.json`}
        >
          Keep as file
        </a>
      )}
      {remember.data && (
        <span role="status">{Object.keys(remember.data.endings).length} endings learned</span>
      )}
      <Problem error={remember.error} />
    </form>
  );
}
