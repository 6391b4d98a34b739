import { type AxisSystem, createNode, type SceneDocument, type Vec3, Y_UP, Z_UP } from './document.ts';
import { grownLights } from './grownLights.ts';
import {
  invertAffine,
  type Matrix4,
  multiply,
  partsOfMatrix,
  rotation,
  scaling,
  toYUpMetres,
  transformPoint,
} from './matrix.ts';
import type { Bounds } from './measure.ts';
import { TAKE_PARTS, type TakePart, takeOnly } from './take.ts';

/** What a person takes from a model, and how its axes and unit are to be understood. */
export interface IntakeChoice {
  parts: TakePart[];
  /** The axis that points up, where the file is wrong about it; null as stated. */
  up: 'X' | 'Y' | 'Z' | null;
  /** The unit, where the file is wrong about it; null as stated. */
  metresPerUnit: number | null;
  /** Extra turn in degrees, X first, in Y-up space about the origin. */
  rotation: Vec3;
  /** Extra size. */
  scale: number;
}

/** Units that a model's numbers may be in, by name, in metres. */
export const LENGTH_UNITS: readonly (readonly [string, number])[] = [
  ['metres', 1],
  ['centimetres', 0.01],
  ['millimetres', 0.001],
  ['inches', 0.0254],
  ['feet', 0.3048],
];

/** The choice that takes a model as its file states it. */
export const TAKE_ALL: IntakeChoice = {
  parts: [...TAKE_PARTS],
  up: null,
  metresPerUnit: null,
  rotation: [0, 0, 0],
  scale: 1,
};

const X_UP: AxisSystem = {
  up: { axis: 0, sign: 1 },
  front: { axis: 2, sign: 1 },
  right: { axis: 1, sign: -1 },
};
const AXES = { X: X_UP, Y: Y_UP, Z: Z_UP };

/** Whether a choice changes nothing. */
export function takesAll(choice: IntakeChoice): boolean {
  return (
    TAKE_PARTS.every((part) => choice.parts.includes(part)) &&
    choice.up === null &&
    choice.metresPerUnit === null &&
    !isMoved(choice)
  );
}

/**
 * What of a choice holds for further models of the same program: which parts are taken, and which way is up
 * in what unit. A turn or a size given by hand belongs to the one model.
 */
export function lastingIntake({ parts, up, metresPerUnit }: IntakeChoice): IntakeChoice {
  return { ...TAKE_ALL, parts, up, metresPerUnit };
}

function isMoved({ rotation: turn, scale }: IntakeChoice): boolean {
  return scale !== 1 || turn.some((angle) => angle !== 0);
}

/** The extra turn and size as one matrix in Y-up metres. */
export function extraMatrix(choice: IntakeChoice): Matrix4 {
  return multiply(scaling([choice.scale, choice.scale, choice.scale]), rotation(choice.rotation));
}

/**
 * The document as it is taken: fewer parts, other axes or unit stated, and an extra turn and size on one node
 * around everything. The document itself is not changed.
 */
export function applyIntake(document: SceneDocument, choice: IntakeChoice): SceneDocument {
  if (takesAll(choice)) return document;
  const taken = takeOnly(document, new Set(choice.parts));
  const { axes, metresPerUnit } = axesUnderstood(taken, choice);
  const placement = {
    ...taken,
    axes,
    metresPerUnit,
    unitStated: taken.unitStated || choice.metresPerUnit !== null,
    lights: grownLights(taken.lights, (metresPerUnit / taken.metresPerUnit) * choice.scale),
  };
  if (!isMoved(choice)) return placement;
  const into = toYUpMetres(axes, metresPerUnit);
  const wrapper = createNode('taken', 'group', -1, {
    transform: partsOfMatrix(multiply(invertAffine(into), multiply(extraMatrix(choice), into))),
  });
  return {
    ...placement,
    nodes: [wrapper, ...placement.nodes.map((node) => ({ ...node, parent: node.parent + 1 }))],
    skins: placement.skins.map((skin) => ({ ...skin, joints: skin.joints.map((joint) => joint + 1) })),
    clips: placement.clips.map((clip) => ({
      ...clip,
      tracks: clip.tracks.map((track) => ({ ...track, node: track.node + 1 })),
    })),
  };
}

/** Axes and unit of a document as a choice has them. */
export function axesUnderstood(
  { axes, metresPerUnit }: SceneDocument,
  choice: IntakeChoice,
): Pick<SceneDocument, 'axes' | 'metresPerUnit'> {
  const other = choice.up !== null && choice.up !== 'XYZ'[axes.up.axis] ? AXES[choice.up] : null;
  return { axes: other ?? axes, metresPerUnit: choice.metresPerUnit ?? metresPerUnit };
}

/** From a model's own axes, in metres, to Y up. */
export function axesOfSource(upAxis: 'X' | 'Y' | 'Z'): Matrix4 {
  return toYUpMetres(AXES[upAxis], 1);
}

/** What a choice does to geometry that was brought to Y-up metres as the file states its axes and unit. */
export function intakeMatrix(choice: IntakeChoice, upAxis: 'X' | 'Y' | 'Z', metresPerUnit: number): Matrix4 {
  const stated = toYUpMetres(AXES[upAxis], metresPerUnit);
  const understood = toYUpMetres(AXES[choice.up ?? upAxis], choice.metresPerUnit ?? metresPerUnit);
  return multiply(extraMatrix(choice), multiply(understood, invertAffine(stated)));
}

/**
 * Width, height and depth in metres with up as height, before or after a choice; from the bounds of the
 * source, which are in its own axes and metres. Turns that are no quarter turns give the size of the turned
 * box.
 */
export function intakeSize(
  bounds: Bounds,
  upAxis: 'X' | 'Y' | 'Z',
  metresPerUnit: number,
  choice: IntakeChoice = TAKE_ALL,
): { width: number; height: number; depth: number } {
  const factor = (choice.metresPerUnit ?? metresPerUnit) / metresPerUnit;
  const matrix = multiply(extraMatrix(choice), toYUpMetres(AXES[choice.up ?? upAxis], factor));
  const min: Vec3 = [Infinity, Infinity, Infinity];
  const max: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (let corner = 0; corner < 8; corner += 1) {
    const [x, y, z] = [0, 1, 2].map((k) => ((corner >> k) & 1 ? bounds.max[k] : bounds.min[k]));
    transformPoint(matrix, x, y, z).forEach((value, k) => {
      min[k] = Math.min(min[k], value);
      max[k] = Math.max(max[k], value);
    });
  }
  return { width: max[0] - min[0], height: max[1] - min[1], depth: max[2] - min[2] };
}

/** A choice in words: what is left out and what is understood differently. */
export function describeIntake(choice: IntakeChoice): string {
  const left = TAKE_PARTS.filter((part) => !choice.parts.includes(part));
  const words = [
    left.length > 0 && `leave ${left.join(', ')}`,
    choice.up && `${choice.up} up`,
    choice.metresPerUnit !== null && `${choice.metresPerUnit} m per unit`,
    choice.rotation.some((angle) => angle !== 0) &&
      `turned by ${choice.rotation.map((angle) => `${angle}°`).join(' ')}`,
    choice.scale !== 1 && `${choice.scale} times the size`,
  ].filter(Boolean);
  return words.length > 0 ? `Take: ${words.join('; ')}` : 'Take everything as stated';
}
