import { Matrix4, type Quaternion } from 'three';
import {
  alongTurns,
  type Bone,
  matrixOf,
  type Pose,
  quaternionOf,
  type Rig,
  RigLot,
  SECONDS,
  seenOf,
  type Vec,
} from './rigLot.ts';
import type { Known } from './soup.ts';

const CODES = 24;

/**
 * Meshes on skeletons of USD, written by hand: joints below joints that are not listed, animations of some of them
 * in another order, joints in an order of the mesh's own, one share for a whole mesh, blend shapes. The same seed
 * gives the same files.
 */
export function usdRigs(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends RigLot {
  known(): Known {
    const rig = this.rig();
    // A pose may be held by an animation without keys, and be another than that of rest.
    const posed = !rig.moving && this.chance(0.6);
    if (posed)
      for (const bone of rig.bones) {
        const held = this.pose(1, 60);
        bone.keys = this.chance(0.7) ? [held, held, held] : null;
      }
    // One share for all points moves the mesh as a whole.
    const rigid = this.chance(0.2);
    if (rigid) rig.shares = rig.points.map(() => rig.shares[0]);
    const text = this.stage(rig, rigid, posed);
    return {
      files: { 'rig.usda': new TextEncoder().encode(text) },
      model: 'rig.usda',
      ...seenOf(rig, alongTurns, 0),
    };
  }

  private stage(rig: Rig, rigid: boolean, posed: boolean): string {
    const onRoot = this.chance(0.5);
    const placed = (pose: Pose | null) => (pose ? placeLines(matrixOf(pose)) : []);
    const paths = this.paths(rig.bones);
    const animated = rig.moving || posed || rig.shapes.length > 0;
    const source = animated ? ['rel skel:animationSource = </Rig/Skeleton/Tide>'] : [];
    const onSkeleton = this.chance(0.5);
    return [
      '#usda 1.0',
      '(',
      '    defaultPrim = "Rig"',
      '    metersPerUnit = 1',
      '    upAxis = "Y"',
      `    timeCodesPerSecond = ${CODES}`,
      ...(rig.moving ? ['    startTimeCode = 0', `    endTimeCode = ${CODES}`] : []),
      ')',
      'def SkelRoot "Rig"',
      '{',
      ...placed(onRoot ? rig.above : null),
      ...(onSkeleton ? [] : source),
      'def Material "Paint"',
      '{',
      'token outputs:surface.connect = <Surface.outputs:surface>',
      'def Shader "Surface"',
      '{',
      'uniform token info:id = "UsdPreviewSurface"',
      `color3f inputs:diffuseColor = (${rig.colour.join(', ')})`,
      'token outputs:surface',
      '}',
      '}',
      'def Skeleton "Skeleton" ( prepend apiSchemas = ["SkelBindingAPI"] )',
      '{',
      ...placed(onRoot ? null : rig.above),
      ...(onSkeleton ? source : []),
      `uniform token[] joints = [${paths.map((path) => `"${path}"`).join(', ')}]`,
      `uniform matrix4d[] bindTransforms = [${rig.bones.map(({ bound }) => matrixWords(bound)).join(', ')}]`,
      `uniform matrix4d[] restTransforms = [${rig.bones.map(({ rest }) => matrixWords(matrixOf(rest))).join(', ')}]`,
      ...(animated ? this.animation(rig, paths) : []),
      '}',
      ...this.mesh(rig, rigid, paths),
      '}',
      '',
    ].join('\n');
  }

  /** Paths of joints; some hang below what is no joint. */
  private paths(bones: readonly Bone[]): string[] {
    const paths: string[] = [];
    for (const { name, parent } of bones) {
      const above = parent < 0 ? [] : [paths[parent]];
      paths.push([...above, ...(this.chance(0.2) ? ['Between'] : []), name].join('/'));
    }
    return paths;
  }

  private animation({ bones, shapes, moving }: Rig, paths: readonly string[]): string[] {
    // Bones that stand still may be left out, and stand where they rest then.
    const listed = bones.flatMap(({ keys }, i) => (keys || this.chance(0.5) ? [i] : []));
    const order = this.chance(0.5) ? listed : listed.toReversed();
    const poses = (key: number) => order.map((bone) => bones[bone].keys?.[key] ?? bones[bone].rest);
    const says = (declared: string, words: (key: number) => string) =>
      // What stands still needs no samples.
      moving && (SECONDS.some((_, key) => words(key) !== words(0)) || this.chance(0.5))
        ? [
            `${declared}.timeSamples = {`,
            ...SECONDS.map((second, key) => `${second * CODES}: ${words(key)},`),
            '}',
          ]
        : [`${declared} = ${words(0)}`];
    const list = (items: readonly string[]) => `[${items.join(', ')}]`;
    return [
      'def SkelAnimation "Tide"',
      '{',
      `uniform token[] joints = ${list(order.map((bone) => `"${paths[bone]}"`))}`,
      ...says('float3[] translations', (key) => list(poses(key).map(({ move }) => `(${move.join(', ')})`))),
      ...says('quatf[] rotations', (key) => list(poses(key).map((pose) => turnWords(quaternionOf(pose))))),
      ...says('half3[] scales', (key) =>
        list(poses(key).map(({ scale }) => `(${scale}, ${scale}, ${scale})`)),
      ),
      ...(shapes.length > 0
        ? [
            `uniform token[] blendShapes = ${list(shapes.map(({ name }) => `"${name}"`))}`,
            ...says('float[] blendShapeWeights', (key) =>
              list(shapes.map(({ weights }) => `${weights[key]}`)),
            ),
          ]
        : []),
      '}',
    ];
  }

  private mesh(rig: Rig, rigid: boolean, paths: readonly string[]): string[] {
    const list = (items: readonly unknown[]) => `[${items.join(', ')}]`;
    // The mesh may name joints in an order of its own.
    const own = this.chance(0.4) ? rig.bones.map((_, i) => i).reverse() : null;
    const width = Math.max(...rig.shares.map((shares) => shares.length)) + this.below(2);
    const padded = (rigid ? rig.shares.slice(0, 1) : rig.shares).map((shares) =>
      Array.from({ length: width }, (_, k) => shares[k] ?? [0, 0]),
    );
    const metadata = `( elementSize = ${width} interpolation = "${rigid ? 'constant' : 'vertex'}" )`;
    const index = (bone: number) => (own ? own.indexOf(bone) : bone);
    return [
      'def Mesh "Hull" ( prepend apiSchemas = ["SkelBindingAPI", "MaterialBindingAPI"] )',
      '{',
      // Where bones move a mesh, its own place counts for nothing.
      ...(this.chance(0.3) ? placeLines(new Matrix4().makeTranslation(3, 4, 5)) : []),
      `point3f[] points = ${list(rig.points.map((point) => `(${point.join(', ')})`))}`,
      `int[] faceVertexCounts = ${list(rig.faces.map(() => 3))}`,
      `int[] faceVertexIndices = ${list(rig.faces.flat())}`,
      'uniform token subdivisionScheme = "none"',
      'rel material:binding = </Rig/Paint>',
      'rel skel:skeleton = </Rig/Skeleton>',
      ...(own ? [`uniform token[] skel:joints = ${list(own.map((bone) => `"${paths[bone]}"`))}`] : []),
      `int[] primvars:skel:jointIndices = ${list(padded.flat().map(([bone, share]) => (share > 0 ? index(bone) : 0)))} ${metadata}`,
      `float[] primvars:skel:jointWeights = ${list(padded.flat().map(([, share]) => share))} ${metadata}`,
      `matrix4d primvars:skel:geomBindTransform = ${matrixWords(rig.bind)}`,
      ...(rig.shapes.length > 0
        ? [
            `uniform token[] skel:blendShapes = ${list(rig.shapes.map(({ name }) => `"${name}"`))}`,
            `rel skel:blendShapeTargets = ${list(rig.shapes.map(({ name }) => `<${name}>`))}`,
          ]
        : []),
      ...rig.shapes.flatMap(({ name, offsets, half }) => {
        const all = this.chance(0.5);
        const moved = new Set([...offsets.keys(), ...(half?.offsets.keys() ?? [])]);
        const points = all ? rig.points.map((_, at) => at) : [...moved];
        const words = (moves: ReadonlyMap<number, Vec>) =>
          list(points.map((at) => `(${(moves.get(at) ?? [0, 0, 0]).join(', ')})`));
        return [
          `def BlendShape "${name}"`,
          '{',
          `uniform vector3f[] offsets = ${words(offsets)}`,
          ...(half
            ? [`uniform vector3f[] inbetweens:half = ${words(half.offsets)} ( weight = ${half.stop} )`]
            : []),
          ...(all ? [] : [`uniform int[] pointIndices = ${list(points)}`]),
          '}',
        ];
      }),
      '}',
    ];
  }
}

function matrixWords(matrix: Matrix4): string {
  const e = matrix.elements;
  return `( ${[0, 4, 8, 12].map((at) => `(${e[at]}, ${e[at + 1]}, ${e[at + 2]}, ${e[at + 3]})`).join(', ')} )`;
}

function turnWords({ w, x, y, z }: Quaternion): string {
  return `(${w}, ${x}, ${y}, ${z})`;
}

function placeLines(matrix: Matrix4): string[] {
  return [
    `matrix4d xformOp:transform = ${matrixWords(matrix)}`,
    'uniform token[] xformOpOrder = ["xformOp:transform"]',
  ];
}
