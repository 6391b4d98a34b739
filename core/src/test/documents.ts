import fc from 'fast-check';
import { createRandom } from '../../../demo/src/noise.ts';
import {
  createDocument,
  createMesh,
  createNode,
  identityTransform,
  type Layer,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  Y_UP,
  Z_UP,
} from '../scene/document.ts';
import { assignKeys, createMaterial } from '../scene/material.ts';
import { rotation, transformPoint } from '../scene/matrix.ts';

/** Names as people give them: accents, blanks, other scripts, digits first, quotes. */
export const oddName = fc.oneof(
  fc.constantFrom(
    'Hull',
    'Poller 3',
    'Möwe',
    '浮标',
    'a.b',
    '7 tons',
    'Boje "alt"',
    'x:y|z',
    'net_02',
    'Ω',
    'mer d’huile',
  ),
  fc
    .string({ minLength: 1, maxLength: 12, unit: fc.constantFrom(...'abcXYZ019 _-.é') })
    .map((text) => text.trim().replace(/\s+/g, ' ') || 'n'),
);

const coordinate = fc
  .float({ min: -50, max: 50, noNaN: true })
  .map((value) => Math.fround(Math.round(value * 16) / 16));
const unit = fc.float({ min: Math.fround(-2), max: Math.fround(3), noNaN: true });

function layer(
  name: string,
  size: 2 | 3,
  mesh: { points: number; corners: number; faces: number },
): fc.Arbitrary<Layer> {
  const sizes = { point: mesh.points, corner: mesh.corners, face: mesh.faces } as const;
  return fc
    .record({ domain: fc.constantFrom('corner', 'point', 'face' as const), indexed: fc.boolean() })
    .chain(({ domain, indexed }) => {
      const needed = sizes[domain as keyof typeof sizes];
      const entries = indexed ? Math.max(1, Math.ceil(needed / 2)) : needed;
      return fc
        .record({
          values: fc.array(unit, { minLength: entries * size, maxLength: entries * size }),
          index: fc.array(fc.nat(entries - 1), { minLength: needed, maxLength: needed }),
        })
        .map(({ values, index }): Layer => {
          const numbers = Float64Array.from(values, Math.fround);
          if (size === 3) {
            for (let i = 0; i < numbers.length; i += 3) {
              const length = Math.hypot(numbers[i], numbers[i + 1], numbers[i + 2]);
              if (length < 1e-3) numbers.set([0, 1, 0], i);
              else for (let k = 0; k < 3; k += 1) numbers[i + k] /= length;
            }
          }
          return {
            name,
            size,
            domain: domain as Layer['domain'],
            values: numbers,
            index: indexed ? Uint32Array.from(index) : null,
          };
        });
    });
}

const mesh: fc.Arbitrary<PolygonMesh> = fc
  .record({
    name: oddName,
    points: fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 8, maxLength: 14 }),
    faces: fc.array(
      fc.record({ count: fc.integer({ min: 3, max: 7 }), start: fc.nat(13), step: fc.constantFrom(1, 3, 5) }),
      { minLength: 1, maxLength: 6 },
    ),
    slots: fc.array(fc.nat(2), { minLength: 6, maxLength: 6 }),
    sets: fc.nat(3),
    normals: fc.boolean(),
  })
  .chain(({ name, points, faces, slots, sets, normals }) => {
    const corners: number[] = [];
    const counts: number[] = [];
    for (const { count, start, step } of faces) {
      const face = new Set<number>();
      for (let i = 0; face.size < count; i += 1)
        face.add((start + i * step + Math.floor((i * step) / points.length)) % points.length);
      corners.push(...face);
      counts.push(count);
    }
    const sizes = { points: points.length, corners: corners.length, faces: counts.length };
    const faceMaterial = Int32Array.from(counts, (_, i) => slots[i]);
    return fc
      .record({
        uvSets: fc.tuple(...Array.from({ length: sets }, (_, i) => layer(`map${i + 1}`, 2, sizes))),
        normals: normals ? layer('normal', 3, sizes) : fc.constant(null),
      })
      .map((layers) =>
        createMesh(name, {
          points: Float64Array.from(points.flat()),
          faceCounts: Uint32Array.from(counts),
          faceCorners: Uint32Array.from(corners),
          faceMaterial: faceMaterial.some((slot) => slot !== 0) ? faceMaterial : null,
          uvSets: layers.uvSets as Layer[],
          normals: layers.normals,
        }),
      );
  });

/**
 * Meshes of convex polygons scattered in space, none of them degenerate: wherever and however they are held,
 * they can be cut into triangles in one way only.
 */
const convexMesh: fc.Arbitrary<PolygonMesh> = fc
  .record({ name: oddName, seed: fc.integer(), faces: fc.integer({ min: 1, max: 6 }), sets: fc.nat(3) })
  .map(({ name, seed, faces, sets }) => {
    const random = createRandom(seed);
    const points: number[] = [];
    const counts: number[] = [];
    for (let face = 0; face < faces; face += 1) {
      const count = 3 + Math.floor(random() * 5);
      const turn = rotation([random() * 360, random() * 360, random() * 360]);
      const centre = [random() * 80 - 40, random() * 80 - 40, random() * 80 - 40];
      for (let i = 0; i < count; i += 1) {
        // On an ellipse, each corner somewhere in its own share of the round.
        const index = ((i + random() * 0.7) / count) * 2 * Math.PI;
        const [x, y, z] = transformPoint(turn, Math.cos(index) * 7, Math.sin(index) * 4, 0);
        points.push(Math.fround(x + centre[0]), Math.fround(y + centre[1]), Math.fround(z + centre[2]));
      }
      counts.push(count);
    }
    const corners = points.length / 3;
    const slots = Int32Array.from(counts, () => Math.floor(random() * 3));
    return createMesh(name, {
      points: Float64Array.from(points),
      faceCounts: Uint32Array.from(counts),
      faceCorners: Uint32Array.from({ length: corners }, (_, i) => i),
      faceMaterial: slots.some((slot) => slot !== 0) ? slots : null,
      uvSets: Array.from({ length: sets }, (_, i) => ({
        name: `map${i + 1}`,
        size: 2 as const,
        domain: 'corner' as const,
        values: Float64Array.from({ length: corners * 2 }, () => Math.fround(random() * 3 - 1)),
        index: null,
      })),
    });
  });

const angle = fc.constantFrom(0, 0, 30, -90, 145, 12.5);
const stretch = fc.constantFrom(1, 1, 1, 2, 0.5, -1, -3);

const scenes = (meshes: fc.Arbitrary<PolygonMesh>): fc.Arbitrary<SceneDocument> =>
  fc
    .record({
      meshes: fc.array(meshes, { minLength: 1, maxLength: 3 }),
      nodes: fc.array(
        fc.record({
          name: oddName,
          parent: fc.nat(7),
          mesh: fc.integer({ min: -1, max: 2 }),
          translation: fc.tuple(coordinate, coordinate, coordinate),
          rotation: fc.tuple(angle, angle, angle),
          scale: fc.tuple(stretch, stretch, stretch),
          materials: fc.tuple(fc.nat(2), fc.nat(2), fc.nat(2)),
        }),
        { minLength: 1, maxLength: 7 },
      ),
      materials: fc.array(oddName, { minLength: 3, maxLength: 3 }),
      zUp: fc.boolean(),
      metres: fc.constantFrom(1, 0.01, 0.0254),
    })
    .map(({ meshes, nodes, materials, zUp, metres }) => {
      const document = createDocument('fbx', 'made');
      document.meshes = meshes;
      document.materials = materials.map((name) => createMaterial(name, 'metalRough'));
      assignKeys(document.materials);
      // Keys stand for names here, since two materials of one name cannot be told apart in every format.
      for (const material of document.materials) material.name = material.key;
      document.axes = zUp ? Z_UP : Y_UP;
      document.metresPerUnit = metres;
      const all = nodes.some((node) => node.mesh >= 0 && node.mesh < meshes.length)
        ? nodes
        : [{ ...nodes[0], mesh: 0 }, ...nodes.slice(1)];
      document.nodes = all.map(
        ({ name, parent, mesh: number, translation, rotation, scale, materials: slots }, i) => {
          const mesh = number < meshes.length ? number : -1;
          return createNode(name, mesh >= 0 ? 'mesh' : 'group', i === 0 ? -1 : (parent % (i + 1)) - 1, {
            transform: { ...identityTransform(), translation, rotation, scale },
            mesh,
            // Each slot a material of its own: slots that share one cannot be told apart afterwards.
            materials: mesh >= 0 ? permutation(slots[0]) : [],
          });
        },
      );
      document.nodes = depthFirst(document.nodes);
      return document;
    });

/**
 * Scenes with n-gons, several UV sets, subsets, odd names, deep and mirrored hierarchies, any unit and up
 * axis.
 */
export const documents = scenes(mesh);
/** The same with polygons that are safe to cut. */
export const convexDocuments = scenes(convexMesh);

/** Nodes in the order in which every reader meets them: each followed by what is under it. */
function depthFirst(nodes: SceneNode[]): SceneNode[] {
  const order: number[] = [];
  const visit = (parent: number) =>
    nodes.forEach((node, i) => {
      if (node.parent !== parent) return;
      order.push(i);
      visit(i);
    });
  visit(-1);
  return order.map((old) => ({ ...nodes[old], parent: order.indexOf(nodes[old].parent) }));
}

function permutation(turn: number): number[] {
  return [turn % 3, (turn + 1) % 3, (turn + 2) % 3];
}
