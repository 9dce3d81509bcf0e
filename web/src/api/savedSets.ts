import { sendBytes, type TextureSet } from "./client";

/** Where sets of a project are had as one file; all of them where none is named. */
export const savedSetsAddress = (project: string, ids: string[] = []) =>
  `/api/projects/${project}/saved-sets?${new URLSearchParams(ids.map((id) => ["set", id]))}`;

/** Take every set of such a file into a project. */
export const takeSavedSets = (project: string, file: File) =>
  sendBytes<TextureSet[]>(
    `/api/projects/${project}/saved-sets?${new URLSearchParams({ name: file.name })}`,
    file,
  );
