import { turnViews } from './aim.ts';
import type {
  AxisSystem,
  Camera,
  Light,
  PolygonMesh,
  RotationOrder,
  SceneDocument,
  Skin,
  Track,
  TransformParts,
  Vec3,
} from './document.ts';
import {
  determinant3,
  eulerOf,
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  normalCofactors,
  rotation,
  toYUpMetres,
} from './matrix.ts';
import { turnTangents } from './tangents.ts';

/**
 * The document in another axis system and unit. Points, transforms, skins, shapes and clips are all
 * rewritten, and rotation orders renamed, so that every node keeps plain parts and nothing is baked. Between
 * systems of different handedness faces are turned round. The document itself is not changed.
 */
export function reorient(document: SceneDocument, axes: AxisSystem, metresPerUnit: number): SceneDocument {
  const into = multiply(
    invertAffine(toYUpMetres(axes, metresPerUnit)),
    toYUpMetres(document.axes, document.metresPerUnit),
  );
  const change = createChange(into, document.metresPerUnit / metresPerUnit);
  if (change.scale === 1 && change.isIdentity) return { ...document, axes, metresPerUnit, unitStated: true };
  return {
    ...document,
    axes,
    metresPerUnit,
    unitStated: true,
    meshes: document.meshes.map((mesh) => changeMesh(mesh, change)),
    cameras: document.cameras.map((camera) => changeCamera(camera, change)),
    lights: document.lights.map(
      (light): Light => ({ ...light, size: [light.size[0] * change.scale, light.size[1] * change.scale] }),
    ),
    ...changeMoving(document, change),
  };
}

/** Nodes, clips and skins; cameras and lights look along their own -Z in every system. */
function changeMoving(
  document: SceneDocument,
  change: Change,
): Pick<SceneDocument, 'nodes' | 'clips' | 'skins'> {
  const nodes = document.nodes.map((node) => ({
    ...node,
    transform: changeTransform(node.transform, change),
  }));
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: clip.tracks.map((track) => changeTrack(track, change)),
  }));
  const skins = document.skins.map((skin) => changeSkin(skin, change));
  if (change.isIdentity) return { nodes, clips, skins };
  const turn = identity();
  for (let axis = 0; axis < 3; axis += 1) {
    turn[axis * 4 + axis] = 0;
    // Of a mirror, which is no turn, views do not mind their own left and right.
    turn[axis * 4 + change.to[axis]] = axis === 0 && change.mirrored ? -change.sign[axis] : change.sign[axis];
  }
  return turnViews({ nodes, clips, skins }, () => turn);
}

/** A change of axes: a signed permutation times one scale. */
interface Change {
  matrix: Matrix4;
  back: Matrix4;
  scale: number;
  /** Where each axis goes, and with which sign. */
  to: [number, number, number];
  sign: [number, number, number];
  mirrored: boolean;
  isIdentity: boolean;
}

/**
 * What a matrix does whose scale is known: taken out of the matrix it would be a little off,
 * 99.99999999999999.
 */
function createChange(matrix: Matrix4, scale: number): Change {
  const to: Change['to'] = [0, 1, 2];
  const sign: Change['sign'] = [1, 1, 1];
  for (let axis = 0; axis < 3; axis += 1) {
    for (let row = 0; row < 3; row += 1) {
      const component = matrix[axis * 4 + row];
      if (Math.abs(component) < scale / 2) continue;
      to[axis] = row;
      sign[axis] = component < 0 ? -1 : 1;
    }
  }
  const near = Math.abs(scale - 1) < 1e-12 ? 1 : scale;
  const isIdentity = to.every((row, axis) => row === axis && sign[axis] === 1);
  return {
    matrix,
    back: invertAffine(matrix),
    scale: near,
    to,
    sign,
    mirrored: determinant3(matrix) < 0,
    isIdentity,
  };
}

function changePoint(v: Vec3, { to, sign, scale }: Change): Vec3 {
  const out: Vec3 = [0, 0, 0];
  for (let axis = 0; axis < 3; axis += 1) out[to[axis]] = v[axis] * sign[axis] * scale;
  return out;
}

/** Turning about an axis stays turning about its image, the other way round in a mirrored system. */
function changeAngles(v: Vec3, { to, sign, mirrored }: Change): Vec3 {
  const out: Vec3 = [0, 0, 0];
  for (let axis = 0; axis < 3; axis += 1)
    out[to[axis]] = v[axis] === 0 ? 0 : v[axis] * sign[axis] * (mirrored ? -1 : 1);
  return out;
}

function changeScale(v: Vec3, { to }: Change): Vec3 {
  const out: Vec3 = [1, 1, 1];
  for (let axis = 0; axis < 3; axis += 1) out[to[axis]] = v[axis];
  return out;
}

function changeOrder(order: RotationOrder, { to }: Change): RotationOrder {
  return [...order].map((letter) => 'XYZ'[to[letter.charCodeAt(0) - 88]]).join('') as RotationOrder;
}

/** Angles that must stay in order XYZ (pre-, post- and geometric rotation). */
function changePlainAngles(v: Vec3, change: Change): Vec3 {
  if (v.every((angle) => angle === 0)) return [0, 0, 0];
  const angles = changeAngles(v, change);
  const order = changeOrder('XYZ', change);
  return order === 'XYZ' ? angles : eulerOf(rotation(angles, order));
}

function changeTransform(t: TransformParts, change: Change): TransformParts {
  return {
    translation: changePoint(t.translation, change),
    rotation: changeAngles(t.rotation, change),
    rotationOrder: changeOrder(t.rotationOrder, change),
    scale: changeScale(t.scale, change),
    preRotation: changePlainAngles(t.preRotation, change),
    postRotation: changePlainAngles(t.postRotation, change),
    rotationPivot: changePoint(t.rotationPivot, change),
    rotationOffset: changePoint(t.rotationOffset, change),
    scalingPivot: changePoint(t.scalingPivot, change),
    scalingOffset: changePoint(t.scalingOffset, change),
    geometricTranslation: changePoint(t.geometricTranslation, change),
    geometricRotation: changePlainAngles(t.geometricRotation, change),
    geometricScale: changeScale(t.geometricScale, change),
    matrix: t.matrix && multiply(multiply(change.matrix, t.matrix), change.back),
    inherit: t.inherit,
  };
}

function changeMesh(mesh: PolygonMesh, change: Change): PolygonMesh {
  const moved: PolygonMesh = {
    ...mesh,
    points: changeValues(mesh.points, change, change.scale),
    normals: mesh.normals && { ...mesh.normals, values: changeValues(mesh.normals.values, change, 1) },
    tangents: mesh.tangents && {
      ...mesh.tangents,
      values: turnTangents(mesh.tangents.values, change.matrix),
    },
    shapes: mesh.shapes.map((shape) => ({
      ...shape,
      offsets: changeValues(shape.offsets, change, change.scale),
      normalOffsets: shape.normalOffsets && changeValues(shape.normalOffsets, change, 1),
    })),
  };
  return change.mirrored ? turnFaces(moved) : moved;
}

function changeValues(
  values: Float32Array | Float64Array,
  { to, sign }: Change,
  scale: number,
): Float64Array {
  const out = new Float64Array(values.length);
  const factor = sign.map((component) => component * scale);
  for (let i = 0; i + 2 < values.length; i += 3) {
    for (let axis = 0; axis < 3; axis += 1) out[i + to[axis]] = values[i + axis] * factor[axis];
  }
  return out;
}

/**
 * Every face, or only those that are marked, the other way round, its first corner staying first; layers by
 * corner follow.
 */
export function turnFaces(mesh: PolygonMesh, only: Uint8Array | null = null): PolygonMesh {
  const order = new Uint32Array(mesh.faceCorners.length);
  let start = 0;
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    const count = mesh.faceCounts[face];
    const turns = only === null || only[face] === 1;
    for (let i = 0; i < count; i += 1) order[start + i] = start + (turns ? (count - i) % count : i);
    start += count;
  }
  const turned = <T extends PolygonMesh['normals']>(layer: T): T => {
    if (layer?.domain !== 'corner') return layer;
    if (layer.index) {
      const { index } = layer;
      return { ...layer, index: Uint32Array.from(order, (from) => index[from]) };
    }
    return { ...layer, index: order };
  };
  return {
    ...mesh,
    faceCorners: Uint32Array.from(order, (from) => mesh.faceCorners[from]),
    normals: turned(mesh.normals),
    tangents: turned(mesh.tangents),
    uvSets: mesh.uvSets.map(turned),
    colours: mesh.colours.map(turned),
  };
}

function changeCamera(camera: Camera, { scale }: Change): Camera {
  return { ...camera, width: camera.width * scale, near: camera.near * scale, far: camera.far * scale };
}

function changeSkin(skin: Skin, change: Change): Skin {
  const inverseBind = new Float64Array(skin.inverseBind.length);
  for (let index = 0; index < inverseBind.length; index += 16) {
    inverseBind.set(
      multiply(multiply(change.matrix, skin.inverseBind.slice(index, index + 16)), change.back),
      index,
    );
  }
  return { ...skin, inverseBind };
}

function changeTrack(track: Track, change: Change): Track {
  if (track.path === 'weights' || track.path === 'visible') return track;
  const width = track.path === 'quaternion' ? 4 : 3;
  const values = new Float64Array(track.values.length);
  for (let index = 0; index + width <= values.length; index += width) {
    const v: Vec3 = [track.values[index], track.values[index + 1], track.values[index + 2]];
    if (track.path === 'translation') values.set(changePoint(v, change), index);
    else if (track.path === 'scale') values.set(changeScale(v, change), index);
    else if (track.path === 'rotation') values.set(changeAngles(v, change), index);
    else values.set([...changeAngles(v, change), track.values[index + 3]], index);
  }
  return { ...track, values };
}

/**
 * A mesh as it stands under a matrix: points, normals and what shapes add to them moved, faces turned round
 * under a mirror.
 */
export function bakeMesh(mesh: PolygonMesh, m: Matrix4): PolygonMesh {
  const cofactors = normalCofactors(m);
  const mirrored = determinant3(m) < 0;
  const points = new Float64Array(mesh.points.length);
  for (let i = 0; i + 2 < points.length; i += 3) {
    for (let row = 0; row < 3; row += 1) {
      points[i + row] =
        m[row] * mesh.points[i] +
        m[4 + row] * mesh.points[i + 1] +
        m[8 + row] * mesh.points[i + 2] +
        m[12 + row];
    }
  }
  const direction = mirrored ? -1 : 1;
  const turn = (values: ArrayLike<number>) => {
    const out = new Float64Array(values.length);
    for (let i = 0; i + 2 < out.length; i += 3) {
      const n = [0, 1, 2].map(
        (row) =>
          direction *
          (cofactors[row] * values[i] +
            cofactors[3 + row] * values[i + 1] +
            cofactors[6 + row] * values[i + 2]),
      );
      const length = Math.hypot(n[0], n[1], n[2]) || 1;
      for (let k = 0; k < 3; k += 1) out[i + k] = n[k] / length;
    }
    return out;
  };
  const along = (values: ArrayLike<number>) => {
    const out = new Float64Array(values.length);
    for (let i = 0; i + 2 < out.length; i += 3)
      for (let row = 0; row < 3; row += 1)
        out[i + row] = m[row] * values[i] + m[4 + row] * values[i + 1] + m[8 + row] * values[i + 2];
    return out;
  };
  const moved = {
    ...mesh,
    points,
    shapes: mesh.shapes.map((shape) => ({
      ...shape,
      offsets: along(shape.offsets),
      normalOffsets: shape.normalOffsets && along(shape.normalOffsets),
    })),
    normals: mesh.normals && { ...mesh.normals, values: turn(mesh.normals.values) },
    tangents: mesh.tangents && { ...mesh.tangents, values: turnTangents(mesh.tangents.values, m) },
  };
  return mirrored ? turnFaces(moved) : moved;
}
