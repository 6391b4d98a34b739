const BUCKETS = 1 << 16;

/**
 * The numbers that would stand at these ranks (from 0) if the list were sorted, in time linear in the list:
 * numbers are counted by the upper half of their bits, and only those of the halves that a rank falls into
 * are sorted. NaN where there is no such rank.
 */
export function valuesAtRanks(values: Float32Array, ranks: readonly number[]): number[] {
  const bits = new Uint32Array(values.buffer, values.byteOffset, values.length);
  const counts = new Uint32Array(BUCKETS);
  for (let i = 0; i < bits.length; i += 1) counts[bucketOf(bits[i])] += 1;
  const places = ranks.map((rank) => placeOf(rank, counts));
  const lists = new Map(places.map(({ bucket }) => [bucket, [] as number[]]));
  const needed = new Uint8Array(BUCKETS);
  for (const bucket of lists.keys()) needed[bucket] = 1;
  for (let i = 0; i < bits.length; i += 1) {
    const bucket = bucketOf(bits[i]);
    if (needed[bucket] === 1) lists.get(bucket)?.push(values[i]);
  }
  for (const list of lists.values()) list.sort((a, b) => a - b);
  return places.map(({ bucket, index }) => lists.get(bucket)?.[index] ?? Number.NaN);
}

/** Upper half of a float's bits, turned so that greater floats have greater halves. */
function bucketOf(bits: number): number {
  return (bits >>> 31 === 1 ? ~bits : bits | 0x80000000) >>> 16;
}

/** The bucket that holds a rank, and its place among the numbers there. */
function placeOf(rank: number, counts: Uint32Array): { bucket: number; index: number } {
  let index = rank;
  let bucket = 0;
  while (bucket < BUCKETS - 1 && index >= counts[bucket]) {
    index -= counts[bucket];
    bucket += 1;
  }
  return { bucket, index };
}
