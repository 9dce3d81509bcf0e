import { useQuery } from "@tanstack/react-query";
import { api, settled } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";

type DropBoxProps = {
  isEmpty: boolean;
  busy: { left: number; of: number };
  onFiles: (files: FileList) => void;
  onFolder: (place: string) => void;
};

/** The other ways to give files, and how far their reading is. */
export function DropBox({ isEmpty, busy, onFiles, onFolder }: DropBoxProps) {
  const { data: folders = [] } = useQuery({
    queryKey: ["folders"],
    queryFn: () => settled(api.GET("/api/folders")),
  });
  return (
    <div
      className={`mb-3 flex items-center gap-3.5 rounded border border-dashed border-copper px-4
        ${isEmpty ? "justify-center py-16" : "py-2.5"}`}
    >
      <span>
        {isEmpty
          ? "Drop pictures, meshes, folders or zips anywhere in the window, paste, or"
          : "Drop more anywhere in the window, paste, or"}
      </span>
      <ChooseFiles label="Choose files" text="Choose files" isMany onChoose={onFiles} />
      <ChooseFiles label="Choose a folder" text="Choose a folder" isFolder onChoose={onFiles} />
      {folders.length > 0 && (
        <Choice
          label="A folder on the server"
          className="w-56"
          value=""
          options={[
            ["", "or link a folder on the server"],
            ...folders.map((f) => [f.place, `${titleOf(f.place)} (${f.pictures})`] as const),
          ]}
          onChange={(place) => place && onFolder(place)}
        />
      )}
      {busy.of > 0 && (
        <span role="status" className="flex items-center gap-2">
          <progress className="w-24" max={busy.of} value={busy.of - busy.left} /> {busy.left} of{" "}
          {busy.of} still being read
        </span>
      )}
    </div>
  );
}

/** A place without the number of its root; the root itself by what it is. */
const titleOf = (place: string) =>
  place.split("/").slice(1).join("/") || `linked folder ${Number(place) + 1}`;
