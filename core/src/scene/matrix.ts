import type { AxisSystem, RotationOrder, TransformParts, Vec3 } from './document.ts';

/** 4x4 matrix, column-major, acting on column vectors. */
export type Matrix4 = Float64Array;

const DEGREE = Math.PI / 180;

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

export function translation(v: Vec3): Matrix4 {
  const m = identity();
  m.set(v, 12);
  return m;
}

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

export function determinant3(m: Matrix4): number {
  return m[0] * (m[5] * m[10] - m[9] * m[6]) - m[4] * (m[1] * m[10] - m[9] * m[2]) + m[8] * (m[1] * m[6] - m[5] * m[2]);
}

/** Cofactor matrix of the linear part (3x3, column-major): transforms normals, up to length, mirror included. */
export function normalCofactors(m: Matrix4): Float64Array {
  const at = (row: number, col: number) => m[col * 4 + row];
  const out = new Float64Array(9);
  for (let col = 0; col < 3; col += 1) {
    for (let row = 0; row < 3; row += 1) {
      const r1 = (row + 1) % 3;
      const r2 = (row + 2) % 3;
      const c1 = (col + 1) % 3;
      const c2 = (col + 2) % 3;
      out[col * 3 + row] = at(r1, c1) * at(r2, c2) - at(r1, c2) * at(r2, c1);
    }
  }
  return out;
}

export function transformPoint(m: Matrix4, x: number, y: number, z: number): Vec3 {
  return [m[0] * x + m[4] * y + m[8] * z + m[12], m[1] * x + m[5] * y + m[9] * z + m[13], m[2] * x + m[6] * y + m[10] * z + m[14]];
}

/**
 * Local matrix of a node. Without pivots this is T * R * S; with them it is the classic chain
 * T * Roff * Rp * Rpre * R * Rpost^-1 * Rp^-1 * Soff * Sp * S * Sp^-1.
 */
export function localMatrix(t: TransformParts): Matrix4 {
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

/** The geometry offset, which moves a node's mesh but not its children. */
export function geometricMatrix(t: TransformParts): Matrix4 {
  return multiply(multiply(translation(t.geometricTranslation), rotation(t.geometricRotation)), scaling(t.geometricScale));
}

/** World matrix per node. Parents must come before their children. */
export function worldMatrices(nodes: readonly { parent: number; transform: TransformParts }[]): Matrix4[] {
  const out: Matrix4[] = [];
  for (const node of nodes) {
    const local = localMatrix(node.transform);
    out.push(node.parent < 0 ? local : multiply(out[node.parent], local));
  }
  return out;
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
