import { activitySteps } from '../maps/activity.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import type { ImageSet } from './imageSet.ts';

/** Images whose detail lies in the same places this much are of one layout. */
const SHARED = 0.55;

/**
 * Joins images whose names tell nothing: a colour and a normal map of one material have their detail, their
 * islands and their empty places in common. Each joins the set that it shares most with and that lacks its
 * channel.
 */
export function joinNameless(
  sets: readonly ImageSet[],
  { factsOf }: { factsOf(path: string): PixelFacts | null },
): ImageSet[] {
  const silent = sets.filter(({ members }) => members.length === 1 && members[0].map.telling === '');
  if (silent.length < 2) return [...sets];
  const joined = new Map<ImageSet, ImageSet[]>();
  const gone = new Set<ImageSet>();
  for (const [i, set] of silent.entries()) {
    if (gone.has(set)) continue;
    const group = [set];
    for (const other of silent.slice(i + 1)) {
      if (gone.has(other) || other.folder !== set.folder) continue;
      const channels = group.map(({ members }) => members[0].reading.channel);
      if (channels.includes(other.members[0].reading.channel) || sharedDetail(set, other, factsOf) < SHARED)
        continue;
      group.push(other);
      gone.add(other);
    }
    if (group.length > 1) joined.set(set, group);
  }
  return sets.filter((set) => !gone.has(set)).map((set) => mergeSets(joined.get(set) ?? [set]));
}

function mergeSets(group: readonly ImageSet[]): ImageSet {
  const [first] = group;
  if (group.length === 1) return first;
  const members = group.flatMap((set) => set.members);
  return {
    ...first,
    members,
    guess: false,
    content: group.map(({ content }) => content).join('\n'),
    spare: group.flatMap(({ spare }) => spare),
  };
}

/**
 * Correlation of where two images have their detail, in -1..1; 0 where their shapes differ or nothing is
 * known.
 */
function sharedDetail(
  first: ImageSet,
  second: ImageSet,
  factsOf: (path: string) => PixelFacts | null,
): number {
  const [a, b] = [first, second].map(({ members }) => factsOf(members[0].map.path));
  if (!a || !b || a.width * b.height !== b.width * a.height) return 0;
  const [x, y] = [activitySteps(a.activity), activitySteps(b.activity)];
  const n = x.length;
  const mean = (values: Uint8Array) => values.reduce((sum, value) => sum + value, 0) / n;
  const [mx, my] = [mean(x), mean(y)];
  let [xx, yy, xy] = [0, 0, 0];
  for (let i = 0; i < n; i += 1) {
    xx += (x[i] - mx) ** 2;
    yy += (y[i] - my) ** 2;
    xy += (x[i] - mx) * (y[i] - my);
  }
  return xx === 0 || yy === 0 ? 0 : xy / Math.sqrt(xx * yy);
}
