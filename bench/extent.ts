const SMALL = process.argv.includes('--small');

/** How much is measured: in full, or with `--small` just enough to show that all of it runs. */
export function extent(full: number, small: number): number {
  return SMALL ? small : full;
}
