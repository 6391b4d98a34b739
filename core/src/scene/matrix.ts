import {
  type AxisSystem,
  identityTransform,
  type RotationOrder,
  type TransformParts,
  type Vec3,
} from './document.ts';
import { cross, normalised } from './vectors.ts';

/** 4x4 matrix, column-major, acting on column vectors. */
export type Matrix4 = Float64Array;

const DEGREE = Math.PI / 180;

/** The matrix that moves nothing. */
export function identity(): Matrix4 {
  const m = new Float64Array(16);
  m[0] = m[5] = m[10] = m[15] = 1;
  return m;
}

/** a * b: b acts first. */
export function multiply(a: Matrix4, b: Matrix4): Matrix4 {
  const out = new Float64Array(16);
  for (let col = 0; col < 4; col += 1) {
    for (let row = 0; row < 4; row += 1) {
      let sum = 0;
      for (let k = 0; k < 4; k += 1) sum += a[k * 4 + row] * b[col * 4 + k];
      out[col * 4 + row] = sum;
    }
  }
  return out;
}

/** The matrix that moves by a vector. */
export function translation(v: Vec3): Matrix4 {
  const m = identity();
  m.set(v, 12);
  return m;
}

/** The matrix that scales along the axes. */
export function scaling(v: Vec3): Matrix4 {
  const m = new Float64Array(16);
  m[0] = v[0];
  m[5] = v[1];
  m[10] = v[2];
  m[15] = 1;
  return m;
}

/** Rotation by Euler angles in degrees; in order `XYZ` the X rotation acts first: R = Rz * Ry * Rx. */
export function rotation(angles: Vec3, order: RotationOrder = 'XYZ'): Matrix4 {
  let m = identity();
  for (const letter of order) {
    const axis = letter.charCodeAt(0) - 88;
    if (angles[axis] !== 0) m = multiply(axisRotation(axis, angles[axis] * DEGREE), m);
  }
  return m;
}

function axisRotation(axis: number, angle: number): Matrix4 {
  const m = identity();
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const u = (axis + 1) % 3;
  const v = (axis + 2) % 3;
  m[u * 4 + u] = c;
  m[v * 4 + v] = c;
  m[u * 4 + v] = s;
  m[v * 4 + u] = -s;
  return m;
}

/** Inverse of a matrix whose last row is 0 0 0 1. A singular one yields the identity's linear part. */
export function invertAffine(m: Matrix4): Matrix4 {
  const cofactors = normalCofactors(m);
  const det = determinant3(m);
  const out = identity();
  if (det === 0) return out;
  for (let col = 0; col < 3; col += 1) {
    for (let row = 0; row < 3; row += 1) out[col * 4 + row] = cofactors[row * 3 + col] / det;
  }
  for (let row = 0; row < 3; row += 1) {
    out[12 + row] = -(out[row] * m[12] + out[4 + row] * m[13] + out[8 + row] * m[14]);
  }
  return out;
}

/** Determinant of the upper left 3 by 3: change of volume, negative where handedness changes. */
export function determinant3(m: Matrix4): number {
  return (
    m[0] * (m[5] * m[10] - m[9] * m[6]) -
    m[4] * (m[1] * m[10] - m[9] * m[2]) +
    m[8] * (m[1] * m[6] - m[5] * m[2])
  );
}

/**
 * Cofactor matrix of the linear part (3x3, column-major): transforms normals, up to length, mirror included.
 */
export function normalCofactors(m: Matrix4): Float64Array {
  const entryAt = (row: number, col: number) => m[col * 4 + row];
  const out = new Float64Array(9);
  for (let col = 0; col < 3; col += 1) {
    for (let row = 0; row < 3; row += 1) {
      const r1 = (row + 1) % 3;
      const r2 = (row + 2) % 3;
      const c1 = (col + 1) % 3;
      const c2 = (col + 2) % 3;
      out[col * 3 + row] = entryAt(r1, c1) * entryAt(r2, c2) - entryAt(r1, c2) * entryAt(r2, c1);
    }
  }
  return out;
}

/** A point moved by a matrix whose last row is 0, 0, 0, 1. */
export function transformPoint(m: Matrix4, x: number, y: number, z: number): Vec3 {
  return [
    m[0] * x + m[4] * y + m[8] * z + m[12],
    m[1] * x + m[5] * y + m[9] * z + m[13],
    m[2] * x + m[6] * y + m[10] * z + m[14],
  ];
}

/**
 * Local matrix of a node. Without pivots this is T * R * S; with them it is the classic chain
 * T * Roff * Rp * Rpre * R * Rpost^-1 * Rp^-1 * Soff * Sp * S * Sp^-1.
 */
export function localMatrix(t: TransformParts): Matrix4 {
  if (t.matrix) return t.matrix;
  const minus = (v: Vec3): Vec3 => [-v[0], -v[1], -v[2]];
  const chain = [
    translation(t.translation),
    translation(t.rotationOffset),
    translation(t.rotationPivot),
    rotation(t.preRotation),
    rotation(t.rotation, t.rotationOrder),
    invertAffine(rotation(t.postRotation)),
    translation(minus(t.rotationPivot)),
    translation(t.scalingOffset),
    translation(t.scalingPivot),
    scaling(t.scale),
    translation(minus(t.scalingPivot)),
  ];
  return chain.reduce(multiply);
}

/** The point that a node's rotation leaves where it is, in its parent's space. */
export function pivotOf({ matrix, translation, rotationOffset, rotationPivot }: TransformParts): Vec3 {
  if (matrix) return [matrix[12], matrix[13], matrix[14]];
  return [0, 1, 2].map((k) => translation[k] + rotationOffset[k] + rotationPivot[k]) as Vec3;
}

/** The geometry offset, which moves a node's mesh but not its children. */
export function geometricMatrix(t: TransformParts): Matrix4 {
  return multiply(
    multiply(translation(t.geometricTranslation), rotation(t.geometricRotation)),
    scaling(t.geometricScale),
  );
}

/**
 * World matrix per node. Parents must come before their children. Where a node does not inherit its parent's
 * scale (`Rrs`), the parent's own scale is taken out of its axes, but not out of where it stands. `RrSs`
 * differs from the rule elsewhere (`RSrs`) only by shear, which no other format says; it is read as `RSrs`.
 */
export function worldMatrices(nodes: readonly { parent: number; transform: TransformParts }[]): Matrix4[] {
  const out: Matrix4[] = [];
  for (const node of nodes) {
    const local = localMatrix(node.transform);
    if (node.parent < 0) out.push(local);
    else if (
      node.transform.inherit === 'Rrs' &&
      nodes[node.parent].transform.scale.some((component) => component !== 1)
    ) {
      out.push(withoutParentScale(out[node.parent], nodes[node.parent].transform, node.transform));
    } else out.push(multiply(out[node.parent], local));
  }
  return out;
}

/**
 * The parent's turn, the own one, the scale of what the parent hangs on, the own scale: the parent's own is left
 * out, and that of others comes behind the turn. The place is as with any other.
 */
function withoutParentScale(parent: Matrix4, parentParts: TransformParts, t: TransformParts): Matrix4 {
  const local = localMatrix(t);
  const [x, y, z] = parentParts.scale.map((component) => (component === 0 ? 1 : 1 / component));
  const unscaled = multiply(parent, scaling([x, y, z]));
  const { quaternion, scale, exact } = decompose(unscaled);
  const isEven =
    exact && scale.every((component) => Math.abs(component - scale[0]) <= 1e-9 * Math.abs(scale[0]));
  const out =
    isEven || t.matrix
      ? multiply(unscaled, local)
      : multiply(behindTurn(quaternion, unscaled, t), scaling(t.scale));
  out.set(transformPoint(parent, local[12], local[13], local[14]), 12);
  return out;
}

/** What stretches the space above, after the turns of both. */
function behindTurn(quaternion: readonly number[], above: Matrix4, t: TransformParts): Matrix4 {
  const turn = rotationOfQuaternion(quaternion);
  const stretch = multiply(invertAffine(turn), above);
  stretch.set([0, 0, 0], 12);
  return multiply(multiply(turn, wholeTurn(t)), stretch);
}

/** The turn of a node with its fixed turns before and after it. */
export function wholeTurn(t: TransformParts): Matrix4 {
  return multiply(
    multiply(rotation(t.preRotation), rotation(t.rotation, t.rotationOrder)),
    invertAffine(rotation(t.postRotation)),
  );
}

/**
 * Translation, rotation (degrees, X first) and scale of a matrix, and whether they say all of it (no shear).
 */
export interface Decomposed {
  translation: Vec3;
  rotation: Vec3;
  quaternion: [number, number, number, number];
  scale: Vec3;
  exact: boolean;
}

/** Splits an affine matrix. A mirror is put into the scale of x. */
export function decompose(m: Matrix4): Decomposed {
  const scale = [0, 1, 2].map((col) => Math.hypot(m[col * 4], m[col * 4 + 1], m[col * 4 + 2])) as Vec3;
  if (determinant3(m) < 0) scale[0] = -scale[0];
  const r = identity();
  for (let col = 0; col < 3; col += 1) {
    for (let row = 0; row < 3; row += 1) r[col * 4 + row] = unscaled(scale, col, row, m);
  }
  const dot = (a: number, b: number) =>
    r[a * 4] * r[b * 4] + r[a * 4 + 1] * r[b * 4 + 1] + r[a * 4 + 2] * r[b * 4 + 2];
  const exact = Math.max(Math.abs(dot(0, 1)), Math.abs(dot(0, 2)), Math.abs(dot(1, 2))) < 1e-6;
  if (!exact) straighten(r);
  return {
    translation: [m[12], m[13], m[14]],
    rotation: eulerOf(r),
    quaternion: quaternionOf(r),
    scale,
    exact,
  };
}

/**
 * Brings axes that shear has drawn out of square back to it: Z stays, along which cameras and lights look, and Y
 * stays upright for it.
 */
function straighten(r: Matrix4): void {
  const z: Vec3 = [r[8], r[9], r[10]];
  // Flat ones have no third axis of their own.
  const other = cross(Math.abs(z[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0], z);
  const x = normalised(cross([r[4], r[5], r[6]], z), normalised(other));
  r.set(x, 0);
  r.set(cross(z, x), 4);
}

function unscaled(scale: Vec3, col: number, row: number, m: Matrix4): number {
  if (scale[col] === 0) return row === col ? 1 : 0;
  return m[col * 4 + row] / scale[col];
}

/**
 * Angles in degrees of a rotation matrix, for the given order. The first turn is taken out before the others
 * are read, so that they stay exact where two axes fall together (gimbal lock).
 */
export function eulerOf(m: Matrix4, order: RotationOrder = 'XYZ'): Vec3 {
  const [i, j, k] = [...order].map((letter) => letter.charCodeAt(0) - 88);
  const sign = (j - i + 3) % 3 === 1 ? 1 : -1;
  const [side, along] = [sign * m[j * 4 + k], m[k * 4 + k]];
  const first = Math.abs(side) + Math.abs(along) < 1e-9 ? 0 : Math.atan2(side, along);
  const rest = multiply(m, axisRotation(i, -first));
  const out: Vec3 = [0, 0, 0];
  out[i] = first / DEGREE;
  out[j] = Math.atan2(-sign * rest[i * 4 + k], rest[k * 4 + k]) / DEGREE;
  out[k] = Math.atan2(-sign * rest[j * 4 + i], rest[j * 4 + j]) / DEGREE;
  return out;
}

/** x, y, z, w of a rotation matrix. */
export function quaternionOf(m: Matrix4): [number, number, number, number] {
  const trace = m[0] + m[5] + m[10];
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2;
    return [(m[6] - m[9]) / s, (m[8] - m[2]) / s, (m[1] - m[4]) / s, s / 4];
  }
  if (m[0] > m[5] && m[0] > m[10]) {
    const s = Math.sqrt(1 + m[0] - m[5] - m[10]) * 2;
    return [s / 4, (m[4] + m[1]) / s, (m[8] + m[2]) / s, (m[6] - m[9]) / s];
  }
  if (m[5] > m[10]) {
    const s = Math.sqrt(1 + m[5] - m[0] - m[10]) * 2;
    return [(m[4] + m[1]) / s, s / 4, (m[9] + m[6]) / s, (m[8] - m[2]) / s];
  }
  const s = Math.sqrt(1 + m[10] - m[0] - m[5]) * 2;
  return [(m[8] + m[2]) / s, (m[9] + m[6]) / s, s / 4, (m[1] - m[4]) / s];
}

/** Rotation matrix of a quaternion x, y, z, w of any length; none of one without length. */
export function rotationOfQuaternion(quaternion: readonly number[]): Matrix4 {
  const m = identity();
  const length = Math.hypot(...quaternion);
  if (!(length > 0)) return m;
  const [x, y, z, w] = quaternion.map((value) => value / length);
  m[0] = 1 - 2 * (y * y + z * z);
  m[1] = 2 * (x * y + z * w);
  m[2] = 2 * (x * z - y * w);
  m[4] = 2 * (x * y - z * w);
  m[5] = 1 - 2 * (x * x + z * z);
  m[6] = 2 * (y * z + x * w);
  m[8] = 2 * (x * z + y * w);
  m[9] = 2 * (y * z - x * w);
  m[10] = 1 - 2 * (x * x + y * y);
  return m;
}

/**
 * Parts that say an affine matrix: translation, rotation and scale where they can, else the matrix itself.
 */
export function partsOfMatrix(m: Matrix4): TransformParts {
  const parts = identityTransform();
  const { translation: t, rotation: r, scale: s, exact } = decompose(m);
  Object.assign(parts, { translation: t, rotation: r, scale: s });
  if (!exact) parts.matrix = Float64Array.from(m);
  return parts;
}

/** Takes document coordinates to right-handed Y-up metres. */
export function toYUpMetres(axes: AxisSystem, metresPerUnit: number): Matrix4 {
  const m = new Float64Array(16);
  [axes.right, axes.up, axes.front].forEach(({ axis, sign }, row) => {
    m[axis * 4 + row] = sign * metresPerUnit;
  });
  m[15] = 1;
  return m;
}

/** A transform without anything but translation, rotation and scale can be moved by glTF's own tracks. */
export function isPlain(t: TransformParts): boolean {
  const none = identityTransform();
  const keys = ['rotationPivot', 'rotationOffset', 'scalingPivot', 'scalingOffset'] as const;
  return !t.matrix && keys.every((key) => t[key].every((component, i) => component === none[key][i]));
}
