import { useEffect, useState } from "react";
import { useMatch, useNavigate } from "react-router";
import { useSets } from "../api/queries";
import { under } from "../parts/under";
import { chosen, filesOf } from "./dropped";
import { type Into, useIncoming } from "./incoming";

/**
 * The whole window takes files, folders and zips, by drop and by paste. On a card or the bench they
 * go into that set, elsewhere to Intake. Answers what is said while files are dragged: null while
 * none are, else the name of the set that they would go into, or "".
 */
export function useDropAnywhere(project: string): string | null {
  const [over, setOver] = useState<string | null>(null);
  const { data: sets = [] } = useSets(project);
  const onBench = useMatch("/p/:project/bench/:setId?");
  const benchId = onBench && (onBench.params.setId ?? sets[0]?.id);
  const navigate = useNavigate();
  useEffect(() => {
    const intoOf = (target: EventTarget | null): Into | null => {
      const card = under(target)?.closest<HTMLElement>("[data-set]");
      const set = sets.find(({ id }) => id === (card?.dataset.set ?? benchId));
      return set ? { id: set.id, name: set.name } : null;
    };
    const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const handleOver = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      if (event.defaultPrevented) return setOver(null); // that place takes them by itself
      event.preventDefault();
      setOver(intoOf(event.target)?.name ?? "");
    };
    const handleLeave = (event: DragEvent) => event.relatedTarget === null && setOver(null);
    const give = (files: ReturnType<typeof chosen>, into: Into | null) => {
      useIncoming.getState().give({ project, files, into });
      if (!into) navigate(`/p/${project}/intake`);
    };
    const handleDrop = async (event: DragEvent) => {
      if (event.defaultPrevented || !hasFiles(event) || !event.dataTransfer) return;
      event.preventDefault();
      setOver(null);
      const into = intoOf(event.target);
      give(await filesOf(event.dataTransfer.items), into);
    };
    const handlePaste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (!files.length) return;
      event.preventDefault();
      give(chosen(files), intoOf(null));
    };
    const drop = (event: DragEvent) => void handleDrop(event);
    window.addEventListener("dragover", handleOver);
    window.addEventListener("dragleave", handleLeave);
    window.addEventListener("drop", drop);
    window.addEventListener("paste", handlePaste);
    return () => {
      window.removeEventListener("dragover", handleOver);
      window.removeEventListener("dragleave", handleLeave);
      window.removeEventListener("drop", drop);
      window.removeEventListener("paste", handlePaste);
    };
  }, [project, sets, benchId, navigate]);
  return over;
}
