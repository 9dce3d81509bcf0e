import type { TextureSet } from "../api/client";

/** Sets that were taken in together last; the tray selects them when it opens after that, and only then. */
let taken: string[] = [];

/**
 * Where sets are looked at that were just taken in: one on the bench, several beside each other;
 * several that one mesh wears, on that mesh.
 */
export function placeOf(project: string, made: readonly TextureSet[]): string {
  const meshes = new Set(made.map(({ recipe }) => recipe.worn?.low.sha256));
  const isOne = made.length === 1 || (meshes.size === 1 && !meshes.has(undefined));
  taken = isOne ? [] : made.map(({ id }) => id);
  return `/p/${project}/${isOne ? `bench/${made[made.length - 1].id}` : "tray"}`;
}

export const justTaken = (): readonly string[] => taken;

/** They were shown. */
export function forgetTaken(): void {
  taken = [];
}
