/** How the last package for a destination stands to the asset as it is now. */
export interface ComparedPackage {
  destination: string;
  /** `changed`: the asset was changed since; `unreadable`: see `reason`. */
  verdict: 'same' | 'different' | 'changed' | 'unreadable';
  /** Differences that no told loss explains. */
  differences: number;
  reason: string | null;
}

/** Whether a person has something to look at: an asset without a package, or one that differs from it. */
export function needsLook(compared: readonly ComparedPackage[]): boolean {
  return compared.length === 0 || compared.some(({ verdict }) => verdict !== 'same');
}
