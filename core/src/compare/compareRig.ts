import type { Clip, MorphShape, SceneDocument } from '../scene/document.ts';
import { worldMatrices } from '../scene/matrix.ts';
import { evaluateTrack } from '../scene/tracks.ts';
import { apartIn, comparePoses, MOMENTS, type Moving, spanOf } from './comparePoses.ts';
import { type Difference, difference } from './difference.ts';
import { extent, pairParts, type RigPair, restPose } from './pairParts.ts';
import { bentPose, type Pose } from './posed.ts';
import { plainName } from './worldParts.ts';

/** Within which moved points count as the same, as a share of the whole's size. */
export const RIG_TOLERANCE = {
  /** Weights are kept in eight bits by some. */
  bent: 2e-3,
  shape: 5e-5,
  /** What a shape adds to a normal, as written in floats or in bytes. */
  normal: 0.02,
  /** Motion is sampled by formats that know no curves. */
  clip: 2e-3,
  /** Seconds of a clip's length. */
  length: 0.051,
} as const;

/**
 * Compares what moves two models: skins by where a bent skeleton puts the points, morph targets by where they
 * lead, clips by where everything is at five moments and, with fewer points, at the keys that both have. Parts
 * are matched by name, points by their place at rest.
 */
export function compareRig(
  a: SceneDocument,
  b: SceneDocument,
  { names = false }: { names?: boolean } = {},
): Difference[] {
  if (![a, b].some(isRigged)) return [];
  const pairs = pairParts(a, b);
  const size = Math.max(...pairs.map(({ rest }) => extent(rest.a)), pairs.length > 0 ? 0 : reachOf(a), 1e-9);
  return [
    ...compareSkins(a, b, pairs, size),
    ...compareShapes(a, b, pairs, size),
    ...(names ? compareClipNames(a, b) : []),
    ...compareClips(a, b, pairs, size),
  ];
}

/** How far apart the nodes stand, of a model without parts that show. */
function reachOf({ nodes }: SceneDocument): number {
  return extent(Float64Array.from(worldMatrices(nodes).flatMap((world) => [...world.subarray(12, 15)])));
}

function isRigged({ skins, clips, meshes }: SceneDocument): boolean {
  return skins.length + clips.length > 0 || meshes.some(({ shapes }) => shapes.length > 0);
}

function compareSkins(
  a: SceneDocument,
  b: SceneDocument,
  pairs: readonly RigPair[],
  size: number,
): Difference[] {
  const [restA, restB] = [restPose(a), restPose(b)];
  const allowed = RIG_TOLERANCE.bent * size;
  return pairs.flatMap((pair): Difference[] => {
    const [first, second] = [a.skins[a.nodes[pair.a].skin], b.skins[b.nodes[pair.b].skin]];
    if (!first)
      return second
        ? [
            difference('rig.skin', `${pair.title} has a skin, and had none`, {
              part: pair.title,
              measured: second.joints.length,
              allowed: 0,
            }),
          ]
        : [];
    const where = { part: pair.title };
    if (!second)
      return [
        difference('rig.skin', `${pair.title} has no skin`, {
          ...where,
          measured: 0,
          allowed: first.joints.length,
        }),
      ];
    const nameOf = (joint: number) => plainName(a.nodes[joint].name);
    const expected = new Set(first.joints.map(nameOf));
    const otherName = (joint: number) => jointAmong(expected, plainName(b.nodes[joint].name));
    const names = new Set(second.joints.map(otherName));
    const lost = first.joints.filter((joint) => moves(a, pair.a, joint) && !names.has(nameOf(joint)));
    if (lost.length > 0) {
      const [missing] = lost.map((joint) => a.nodes[joint].name);
      return [
        difference('rig.skin', `${pair.title}: the joint ${missing} is not there`, {
          ...where,
          measured: lost.length,
          allowed: 0,
        }),
      ];
    }
    // Joints whose names repeat stay, since nobody can tell them apart.
    const [ownNames, others] = [alone(first.joints, nameOf), alone(second.joints, otherName)];
    const both = (names: ReadonlyMap<string, number>, others: ReadonlyMap<string, number>) =>
      new Map(
        [...names].flatMap(([name, joint]): [number, string][] => (others.has(name) ? [[joint, name]] : [])),
      );
    const [poseA, poseB] = [bentPose(restA, both(ownNames, others)), bentPose(restB, both(others, ownNames))];
    const apart = apartIn({ document: a, pose: poseA }, { document: b, pose: poseB }, pair);
    if (apart <= allowed) return [];
    return [
      difference(
        'rig.skin',
        `${pair.title}: bent, its points are up to ${apart.toPrecision(3)} m elsewhere`,
        { ...where, measured: apart, allowed },
      ),
    ];
  });
}

/** The name that a joint had before it was numbered, since another node had it too. */
function jointAmong(expected: ReadonlySet<string>, name: string): string {
  const bare = name.replace(/_\d+$/, '');
  return !expected.has(name) && expected.has(bare) ? bare : name;
}

/** Joints by those of their names that are no other's. */
function alone(joints: readonly number[], nameOf: (joint: number) => string): Map<string, number> {
  const counts = new Map<string, number>();
  for (const joint of joints) counts.set(nameOf(joint), (counts.get(nameOf(joint)) ?? 0) + 1);
  return new Map(
    joints.filter((joint) => counts.get(nameOf(joint)) === 1).map((joint) => [nameOf(joint), joint]),
  );
}

/** Whether a joint has any weight on a part. */
function moves({ nodes, meshes, skins }: SceneDocument, part: number, joint: number): boolean {
  const { influences } = meshes[nodes[part].mesh];
  const index = skins[nodes[part].skin].joints.indexOf(joint);
  return influences?.joints.some((other, i) => other === index && influences.weights[i] > 0.01) ?? false;
}

function compareShapes(
  a: SceneDocument,
  b: SceneDocument,
  pairs: readonly RigPair[],
  size: number,
): Difference[] {
  const allowed = RIG_TOLERANCE.shape * size;
  return pairs.flatMap((pair) => {
    const [first, second] = [a.meshes[a.nodes[pair.a].mesh].shapes, b.meshes[b.nodes[pair.b].mesh].shapes];
    const names = new Set(first.map(({ name }) => plainName(name)));
    const added = second.filter(({ name }) => !names.has(plainName(name)));
    const more = added.map(({ name }) =>
      difference('rig.morph', `${pair.title}: the shape ${name} is there besides`, {
        part: pair.title,
        measured: 1,
        allowed: 0,
      }),
    );
    const changed = first.flatMap((shape, i): Difference[] => {
      const other = second.findIndex(({ name }) => plainName(name) === plainName(shape.name));
      const where = { part: pair.title };
      if (other < 0)
        return [
          difference('rig.morph', `${pair.title}: the shape ${shape.name} is not there`, {
            ...where,
            measured: 0,
            allowed: 1,
          }),
        ];
      const apart = apartIn(
        { document: a, pose: shapedPose(a, pair.a, i) },
        { document: b, pose: shapedPose(b, pair.b, other) },
        pair,
      );
      if (apart > allowed)
        return [
          difference(
            'rig.morph',
            `${pair.title}: ${shape.name} leads points up to ${apart.toPrecision(3)} m elsewhere`,
            {
              ...where,
              measured: apart,
              allowed,
            },
          ),
        ];
      if (Math.abs(shape.weight - second[other].weight) > 1e-4)
        return [
          difference(
            'rig.morph',
            `${pair.title}: ${shape.name} stands at ${second[other].weight}, not ${shape.weight}`,
            {
              ...where,
              measured: second[other].weight,
              allowed: shape.weight,
            },
          ),
        ];
      const turned = samePoints(a, b, pair) ? normalsApart(shape, second[other]) : 0;
      if (turned > RIG_TOLERANCE.normal)
        return [
          difference('rig.morph', `${pair.title}: ${shape.name} turns its normals otherwise`, {
            ...where,
            measured: turned,
            allowed: RIG_TOLERANCE.normal,
          }),
        ];
      return [];
    });
    return [...changed, ...more];
  });
}

/** Whether the points of a part are the same, one by one; formats that split them have others. */
function samePoints(a: SceneDocument, b: SceneDocument, pair: RigPair): boolean {
  const [first, second] = [a.meshes[a.nodes[pair.a].mesh].points, b.meshes[b.nodes[pair.b].mesh].points];
  return first.length === second.length && first.every((value, i) => Math.abs(value - second[i]) <= 1e-6);
}

/** How far what two shapes add to normals lies apart, point by point; 0 where the first says nothing of it. */
function normalsApart(a: MorphShape, b: MorphShape): number {
  if (!a.normalOffsets) return 0;
  const places = new Map([...b.points].map((point, i) => [point, i]));
  return Array.from(a.normalOffsets).reduce((most, value, i) => {
    const place = places.get(a.points[Math.floor(i / 3)]);
    const other = place === undefined ? 0 : (b.normalOffsets?.[place * 3 + (i % 3)] ?? 0);
    return Math.max(most, Math.abs(value - other));
  }, 0);
}

/** One morph target in full, and no other. */
function shapedPose(document: SceneDocument, node: number, shape: number): Pose {
  const weights = document.meshes[document.nodes[node].mesh].shapes.map((_, i) => Number(i === shape));
  return { ...restPose(document), weights: new Map([[node, weights]]) };
}

function compareClips(
  a: SceneDocument,
  b: SceneDocument,
  pairs: readonly RigPair[],
  size: number,
): Difference[] {
  const moving = a.clips.filter(({ tracks }) => tracks.length > 0);
  const others = pairClips(moving, b.clips);
  const added = b.clips.filter((other) => other.tracks.length > 0 && !others.includes(other));
  const more = added.map(({ name }) =>
    difference('rig.clip', `the clip ${name} is there besides`, { part: name, measured: 1, allowed: 0 }),
  );
  const changed = moving.flatMap((clip, i): Difference[] => {
    const other = others[i];
    if (!other)
      return [
        difference('rig.clip', `the clip ${clip.name} is not there`, {
          part: clip.name,
          measured: 0,
          allowed: 1,
        }),
      ];
    const [first, second] = [lengthOf(clip), lengthOf(other)];
    const where = { part: clip.name, measured: second, allowed: first };
    if (!isAsLong(clip, other))
      return [
        difference('rig.clip', `${clip.name} takes ${second.toFixed(3)} s, not ${first.toFixed(3)} s`, where),
      ];
    const [from, to] = [
      { document: a, clip },
      { document: b, clip: other },
    ];
    const poses = comparePoses(from, to, pairs, { share: RIG_TOLERANCE.clip, size });
    return [...poses, ...compareVisibility(from, to)];
  });
  return [...changed, ...more];
}

/** USD has no name for its one clip. */
function compareClipNames(a: SceneDocument, b: SceneDocument): Difference[] {
  if ([a, b].some(({ format }) => format === 'usd')) return [];
  const moving = a.clips.filter(({ tracks }) => tracks.length > 0);
  return pairClips(moving, b.clips).flatMap((other, i) => {
    const { name } = moving[i];
    if (!other || plainName(other.name) === plainName(name)) return [];
    const where = { part: name, measured: other.name, allowed: name };
    return [difference('rig.clip', `the clip ${name} is named ${other.name}`, where)];
  });
}

/**
 * Clips by name, those of one name in their order; what is left over goes by length, then by position, since
 * some formats keep one clip, and no name of it.
 */
function pairClips(clips: readonly Clip[], others: readonly Clip[]): (Clip | undefined)[] {
  const rest = [...others];
  const take = (fits: (other: Clip) => boolean) => {
    const index = rest.findIndex(fits);
    return index < 0 ? undefined : rest.splice(index, 1)[0];
  };
  const byName = clips.map(({ name }) => take((other) => plainName(other.name) === plainName(name)));
  const byLength = clips.map((clip, i) => byName[i] ?? take((other) => isAsLong(clip, other)));
  return byLength.map((other) => other ?? rest.shift());
}

function lengthOf(clip: Clip): number {
  const [start, end] = spanOf(clip);
  return end - start;
}

function isAsLong(a: Clip, b: Clip): boolean {
  return Math.abs(lengthOf(a) - lengthOf(b)) <= RIG_TOLERANCE.length;
}

function compareVisibility(
  { document: a, clip: clipA }: Moving,
  { document: b, clip: clipB }: Moving,
): Difference[] {
  const [startA, startB] = [spanOf(clipA)[0], spanOf(clipB)[0]];
  const seen = (document: SceneDocument, clip: Clip, name: string, time: number) => {
    const track = clip.tracks.find(
      ({ node, path }) => path === 'visible' && plainName(document.nodes[node].name) === name,
    );
    return track ? evaluateTrack(track, time)[0] > 0.5 : null;
  };
  return clipA.tracks
    .filter(({ path }) => path === 'visible')
    .flatMap(({ node }) => {
      const { name } = a.nodes[node];
      const same = MOMENTS.every((share) => {
        const time = lengthOf(clipA) * share;
        return (
          seen(a, clipA, plainName(name), startA + time) === seen(b, clipB, plainName(name), startB + time)
        );
      });
      return same
        ? []
        : [
            difference('rig.clip', `${clipA.name}: ${name} is shown and hidden otherwise`, {
              part: name,
              measured: 'visible',
              allowed: null,
            }),
          ];
    });
}
