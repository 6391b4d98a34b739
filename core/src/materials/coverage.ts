/**
 * The cut-off at which a mask keeps as much as blending would: the share of pixels at or above it comes
 * nearest to the mean opacity. `bins` are shares of pixels by opacity over 0..1, as in
 * `PixelFacts.alpha.bins`; `kept` and `wanted` are those two shares.
 */
export function bestCutoff(bins: readonly number[]): { cutoff: number; kept: number; wanted: number } {
  const count = bins.length;
  // The two outermost bins hold what is clear and what is whole.
  const opacityOf = (i: number) => levelOf(i, count);
  const total = bins.reduce((sum, share) => sum + share, 0) || 1;
  const required = bins.reduce((sum, share, i) => sum + share * opacityOf(i), 0) / total;
  let best = { cutoff: 0.5, kept: 0, wanted: required };
  let least = Number.POSITIVE_INFINITY;
  let covered = 0;
  for (let i = count - 1; i > 0; i -= 1) {
    covered += bins[i] / total;
    const miss = Math.abs(covered - required) + Math.abs(i / count - 0.5) * 1e-6;
    if (miss < least) {
      least = miss;
      best = { cutoff: i / count, kept: covered, wanted: required };
    }
  }
  return best;
}

function levelOf(i: number, count: number) {
  if (i === 0) return 0;
  return i === count - 1 ? 1 : (i + 0.5) / count;
}
