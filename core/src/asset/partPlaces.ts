import type { Vec3 } from '../scene/document.ts';
import {
  determinant3,
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  transformPoint,
  translation,
} from '../scene/matrix.ts';
import type { Bounds } from '../scene/measure.ts';
import type { AssetNode } from './asset.ts';

/** Where a part stands, in metres and the model's own axes. */
export interface PartPlace {
  /** Its own space in the world. */
  frame: Matrix4;
  /** What its mesh reaches in its own space, where that is known. */
  box: Bounds | null;
  bounds: Bounds | null;
  pivot: Vec3 | null;
}

/** Where a node stands, as its source has it. */
export function placeOfNode({ frame, box, bounds, pivot }: AssetNode): PartPlace {
  const matrix = frame ? matrixOf(frame) : translation(pivot ?? [0, 0, 0]);
  return { frame: matrix, box: box ?? null, bounds: bounds ?? null, pivot: pivot ?? null };
}

/** The other way round than {@link placeOfNode}: three axes and a place. */
function matrixOf(frame: readonly number[]): Matrix4 {
  const out = identity();
  for (const column of [0, 1, 2, 3]) out.set(frame.slice(column * 3, column * 3 + 3), column * 4);
  return out;
}

/** The box in the axes that holds a box which was moved. */
export function placedBounds({ min, max }: Bounds, matrix: Matrix4): Bounds {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((i) =>
    transformPoint(matrix, ...([0, 1, 2].map((k) => ((i >> k) & 1 ? max[k] : min[k])) as Vec3)),
  );
  const side = (pick: typeof Math.min) =>
    [0, 1, 2].map((k) => pick(...corners.map((corner) => corner[k]))) as Bounds['min'];
  return { min: side(Math.min), max: side(Math.max) };
}

/** Moves a part. Of what is turned two boxes are known, and what is in both holds it. */
export function moved(part: PartPlace, by: Matrix4): PartPlace {
  const frame = multiply(by, part.frame);
  const bounds = part.bounds && placedBounds(part.bounds, by);
  const own = part.box && placedBounds(part.box, frame);
  return {
    frame,
    box: part.box,
    bounds: bounds && own ? inBoth(bounds, own) : bounds,
    pivot: part.pivot && transformPoint(by, ...part.pivot),
  };
}

function inBoth(a: Bounds, b: Bounds): Bounds {
  return {
    min: a.min.map((value, k) => Math.max(value, b.min[k])) as Vec3,
    max: a.max.map((value, k) => Math.min(value, b.max[k])) as Vec3,
  };
}

/** A part with its own transform gone, and what moves all that hangs on it likewise. */
export function resetTo(part: PartPlace, above: Matrix4): { place: PartPlace; by: Matrix4 } {
  const by = multiply(above, invertAffine(part.frame));
  // What was flattened has its thickness again, of which its bounds know nothing.
  const bounds =
    determinant3(part.frame) === 0 ? part.box && placedBounds(part.box, above) : moved(part, by).bounds;
  return { place: { frame: above, box: part.box, bounds, pivot: part.pivot && originOf(above) }, by };
}

/** A part whose transform went into its points: it is seen where it was. */
export function appliedTo(part: PartPlace, above: Matrix4): PartPlace {
  return { ...part, frame: above, box: boxIn(part, above), pivot: part.pivot && originOf(above) };
}

/** A part that turns about another place. */
export function pivotedAt(part: PartPlace, pivot: Vec3): PartPlace {
  const offset = transformPoint(invertAffine(part.frame), ...pivot).map((value) => -value) as Vec3;
  const frame = part.frame.slice();
  frame.set(pivot, 12);
  return { ...part, frame, box: part.box && placedBounds(part.box, translation(offset)), pivot };
}

/** Where a space begins. */
export function originOf(frame: Matrix4): Vec3 {
  return [frame[12], frame[13], frame[14]];
}

/** Whether a space is mirrored. */
export function isMirrored(frame: Matrix4): boolean {
  return determinant3(frame) < 0;
}

function boxIn({ bounds }: PartPlace, frame: Matrix4): Bounds | null {
  return bounds && placedBounds(bounds, invertAffine(frame));
}
