import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { takeSavedSets } from "../../api/savedSets";
import { placeOf } from "../../line/justTaken";

/** A file that holds sets as they were saved, and what they are called. */
export type SavedFile = { file: File; names: string[] };

/** Files of saved sets that were dropped, until they are taken in or put away. */
export function useSavedSets(project: string) {
  const [offered, setOffered] = useState<SavedFile[]>([]);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const putAway = (one: SavedFile) => setOffered((now) => now.filter((other) => other !== one));
  const take = useMutation({
    mutationFn: ({ file }: SavedFile) => takeSavedSets(project, file),
    onSuccess: async (made, one) => {
      await queries.invalidateQueries({ queryKey: ["sets", project] });
      putAway(one);
      navigate(placeOf(project, made));
    },
  });
  return {
    offered,
    see: (file: File, names: string[]) => {
      setOffered((now) => [...now, { file, names }]);
      navigate(`/p/${project}/intake`);
    },
    take: take.mutate,
    taken: take.isPending ? take.variables : null,
    error: take.error,
    putAway,
  };
}
