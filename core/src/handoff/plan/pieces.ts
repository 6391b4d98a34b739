import { fillName } from '../../destinations/names.ts';
import type { Destination } from '../../destinations/profile.ts';
import { ENVIRONMENTS, isEnvironmentKey } from '../../maps/environments.ts';
import { fileName } from '../../parcel/fileSource.ts';
import { createNamer } from '../../parcel/names.ts';
import { addCollision, wantsCollision } from '../../scene/collision.ts';
import { cutParts } from '../../scene/cutParts.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { grownLights } from '../../scene/grownLights.ts';
import type { Loss } from '../../scene/loss.ts';
import { toYUpMetres } from '../../scene/matrix.ts';
import { measureBoundsIn } from '../../scene/measure.ts';
import type { CollisionShape } from '../../scene/partChange.ts';
import { splitDocument } from '../../scene/split.ts';
import type { StageChoice } from '../../scene/stage.ts';
import type { HandoffPlan } from './plan.ts';

/** One model file of a package, before it is brought to the destination's axes, unit and materials. */
export interface ModelPiece {
  /** Name of the file without its type. */
  name: string;
  document: SceneDocument;
  /** The plan with what this file uses alone. */
  plan: HandoffPlan;
}

/** Scales, cuts and splits a document as the destination wants it, and tells what that cost. */
export async function piecesOf(
  document: SceneDocument,
  plan: HandoffPlan,
  asset: string,
): Promise<{ pieces: ModelPiece[]; losses: Loss[] }> {
  const { destination } = plan;
  let whole = scaledTo(document, destination.size);
  let losses: Loss[] = [];
  if (destination.parts !== 'kept') {
    const cut = cutParts(whole, destination.parts);
    whole = cut.document;
    losses = cut.losses;
  }
  const { name: template, ...common } = destination.collision;
  if (wantsCollision(whole, common.shape))
    whole = await addCollision(whole, common, (part) => fillName(template, { part }, 'collision'));
  const pieces = splitDocument(whole, destination.split);
  const nameFile = createNamer();
  const named = pieces.map((piece) => ({
    name: nameFile(fillName(destination.names.file, { asset, part: piece.name }, 'asset'), 'asset'),
    document: piece.document,
    plan: pieces.length === 1 ? plan : planOf(plan, piece.document),
  }));
  return { pieces: named, losses };
}

/** The document so large that its longest side is `size` metres; as it is for 0 or where it has no size. */
export function scaledTo(document: SceneDocument, size: number): SceneDocument {
  if (size === 0) return document;
  const longest = longestSide(document);
  if (!(longest > 0)) return document;
  const factor = size / longest;
  return {
    ...document,
    metresPerUnit: document.metresPerUnit * factor,
    lights: grownLights(document.lights, factor),
  };
}

/** Longest side of the whole, in metres; 0 without geometry. */
export function longestSide(document: SceneDocument): number {
  const bounds = measureBoundsIn(document, toYUpMetres(document.axes, document.metresPerUnit));
  return bounds ? Math.max(...bounds.max.map((value, i) => value - bounds.min[i])) : 0;
}

/** The plan of what one file uses; losses and notes are those of the package. */
function planOf(plan: HandoffPlan, document: SceneDocument): HandoffPlan {
  const used = new Set(document.materials.map(({ key }) => key));
  const materials = plan.materials.filter(({ key }) => used.has(key));
  const patterns = new Set(
    materials.flatMap(({ images }) =>
      Object.values(images).flatMap((image) => (image ? [image.pattern] : [])),
    ),
  );
  return { ...plan, materials, images: plan.images.filter(({ pattern }) => patterns.has(pattern)) };
}

/** What a destination's title says of its ways with geometry, in words for the plan. */
function stageLine({ camera, lamps, environment }: StageChoice): string {
  const count = lamps.length > 0 && `${lamps.length} ${lamps.length === 1 ? 'lamp' : 'lamps'}`;
  const what = [camera && 'the camera', count, environment && environmentInWords(environment)].filter(
    (part) => typeof part === 'string',
  );
  const isOne = what.length <= 1 && lamps.length < 2;
  return `${what.join(' and ') || 'nothing'} of the view ${isOne ? 'goes' : 'go'} along`;
}

function environmentInWords({
  image,
  name = image,
  turn,
  strength,
}: NonNullable<StageChoice['environment']>): string {
  const title = isEnvironmentKey(image) ? ENVIRONMENTS[image].title : fileName(name);
  const how = [turn !== 0 && `turned by ${turn}°`, strength !== 1 && `${strength} times as strong`].filter(
    (part) => typeof part === 'string',
  );
  return `the environment "${title}"${how.length > 0 ? ` (${how.join(', ')})` : ''}`;
}

const COLLISION_WORDS: Record<Exclude<CollisionShape, 'none'>, string> = {
  box: 'a box',
  orientedBox: 'the smallest box',
  hull: 'a convex hull',
  hulls: 'several convex hulls',
  mesh: 'a mesh',
};

/** What a destination changes in the model, one line each, for the plan. */
export function geometryChanges(
  { size, parts, split, triangulate, collision, turn = 0, stage }: Destination,
  counts: { polygons: number; triangles: number },
): string[] {
  return [
    size > 0 && `scaled so that the longest side is ${size} m`,
    turn > 0 && `a turn of ${turn} s goes along as a clip`,
    stage && stageLine(stage),
    triangulate &&
      counts.polygons !== counts.triangles &&
      `${counts.polygons} polygons are cut into ${counts.triangles} triangles`,
    parts === 'materials' && 'parts are cut by material',
    parts === 'solids' && 'parts are cut into solids, each with materials of its own',
    split !== 'one' && `one file per ${{ groups: 'group', nodes: 'node', materials: 'material' }[split]}`,
    collision.shape !== 'none' && `${COLLISION_WORDS[collision.shape]} for collision under every part`,
  ].filter((line): line is string => typeof line === 'string');
}
