/**
 * How much each of several shapes counts that one weight goes through: a shape stands as it is written at its
 * stop, at 0 nothing moves, and between two stops the one goes over into the other, straight. Beyond the first
 * and the last it goes on as it went. Stops differ from each other and from 0.
 */
export function sharesAt(stops: readonly number[], weight: number): number[] {
  const knots = knotsOf(stops);
  const above = knots.findIndex((knot) => knot >= weight);
  const upper = above < 0 ? knots.length - 1 : Math.max(1, above);
  const [from, to] = [knots[upper - 1], knots[upper]];
  const share = (weight - from) / (to - from);
  return stops.map((stop) => {
    if (stop === to) return share;
    return stop === from ? 1 - share : 0;
  });
}

/** The weights at which one shape begins to go over into another. */
export function bendsOf(stops: readonly number[]): number[] {
  return knotsOf(stops).slice(1, -1);
}

/** The times, between two keys that a straight line joins, at which the line passes the bends. */
export function passingTimes(
  [start, end]: readonly [number, number],
  [from, to]: readonly [number, number],
  bends: readonly number[],
): number[] {
  return bends
    .filter((bend) => (bend - from) * (bend - to) < 0)
    .map((bend) => start + ((bend - from) / (to - from)) * (end - start));
}

function knotsOf(stops: readonly number[]): number[] {
  return [0, ...stops].sort((a, b) => a - b);
}
