import { writeModel } from '@kinkajou/core/formats/writeModel';
import { encodeImage } from '@kinkajou/core/images/encode';
import {
  createDocument,
  createNode,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Vec3,
  Y_UP,
} from '@kinkajou/core/scene/document';
import { createMapUse, createMaterial, type Material } from '@kinkajou/core/scene/material';
import { mergeMeshes } from '@kinkajou/core/scene/mergeMeshes';
import { turnFaces } from '@kinkajou/core/scene/reorient';
import type { DemoParcel } from './scene.ts';
import { box } from './shapes.ts';

const FOLDER = 'mooring-stair';
const TIMBER = 'timber_basecolor.png';
const SIZE = 128;

/**
 * A mooring stair in one lump, and the yard where it was built: parts with one fault of shape each, spares
 * whose names come twice, an anchor in centimetres that says nothing of it, and a chain that lies where the
 * surveyor left it.
 */
export async function mooringStair(): Promise<DemoParcel> {
  const models = {
    'stair.fbx': stair(),
    'yard.usda': yard(),
    'loose/spares.fbx': spares(),
    'loose/anchor.obj': lone('Anchor', box('Anchor', [140, 20, 90])),
    'loose/chain.obj': lone('Chain', box('Chain', [2, 0.1, 0.1], [480, 3, 120])),
  };
  const files: DemoParcel['files'] = { [`${FOLDER}/${TIMBER}`]: await timber() };
  for (const [name, document] of Object.entries(models)) {
    const folder = name.includes('/') ? name.slice(0, name.lastIndexOf('/') + 1) : '';
    const written = writeModel(document, name.slice(folder.length), {
      form: 'text',
      targetOf: () => ({ path: TIMBER, embed: null }),
    });
    for (const [path, bytes] of written.files) files[`${FOLDER}/${folder}${path}`] = bytes;
  }
  const fault = (model: string, code: string, subject: string, why: string) => ({
    model: `${FOLDER}/${model}`,
    code,
    subject,
    why,
  });
  return {
    id: FOLDER,
    title: 'Mooring stair',
    files,
    faults: [
      fault('yard.usda', 'shape.insideOut', 'Crate', 'its faces look inwards'),
      fault('yard.usda', 'shape.mixedWinding', 'Hatch', 'one of its faces looks to the other side'),
      fault('yard.usda', 'shape.mirrored', 'Gate', 'its width is negative'),
      fault('yard.usda', 'shape.noUv', 'Sign', 'it has no UVs under a material with an image'),
      fault('yard.usda', 'shape.uvCollapsed', 'Board', 'all its UVs are one point'),
      fault('yard.usda', 'shape.uvOutside', 'Mat', 'its UVs reach over three images that do not repeat'),
      fault('yard.usda', 'shape.noNormals', 'Ring', 'it was exported without normals'),
      fault('yard.usda', 'shape.brokenNormals', 'Bar', 'its normals are of length 0'),
      fault('yard.usda', 'shape.degenerate', 'Wedge', 'one of its faces is a line'),
      fault('yard.usda', 'shape.doubledFaces', 'Plate', 'one of its faces comes twice'),
      fault('yard.usda', 'shape.pivotFar', 'Bell', 'it turns about a point far away'),
      fault('yard.usda', 'part.noMaterial', 'Stone', 'nobody gave it one'),
      fault('yard.usda', 'material.unused', 'Rope', 'nothing is made of it'),
      fault('yard.usda', 'material.doubled', 'Tar', 'it is Pitch by another name'),
      fault('loose/spares.fbx', 'part.nameDoubled', 'Bolt', 'two bolts have one name'),
      fault(
        'loose/anchor.obj',
        'shape.sizeImplausible',
        'anchor',
        'written in centimetres, which OBJ cannot say',
      ),
      fault('loose/chain.obj', 'shape.farOff', 'chain', 'it stands where the map of the harbour has it'),
    ],
  };
}

/** Six treads on two stringers as one mesh: what a program for solids hands over. */
function stair(): SceneDocument {
  const treads = Array.from({ length: 6 }, (_, i) =>
    box(`tread ${i}`, [1.2, 0.06, 0.3], [0, 0.2 + i * 0.2, i * 0.28]),
  );
  const stringers = [-0.66, 0.66].map((x) => box('stringer', [0.08, 1.6, 0.12], [x, 0.8, 0.7]));
  const mesh = mergeMeshes(
    'Stair',
    [...treads, ...stringers].map((one) => ({ mesh: one, slots: [0] })),
  );
  const document = scene([wood('Timber', 1)]);
  return withParts(document, [['Stair', mesh, 0]]);
}

function yard(): SceneDocument {
  const document = scene([
    wood('Timber', 1),
    wood('Mat', 1),
    plain('Pitch', 0.05),
    plain('Rope', 0.5),
    plain('Tar', 0.05),
    plain('Iron', 0.2),
  ]);
  const clamped = document.materials[1].channels.baseColor?.map;
  if (clamped) clamped.wrap = ['clamp', 'clamp'];
  const at = (i: number): Vec3 => [(i % 4) * 1.5, 0.4, Math.floor(i / 4) * 1.5];
  const cube = (name: string, i: number) => box(name, [0.8, 0.8, 0.8], at(i));
  const crate = turnFaces(cube('Crate', 0));
  crate.normals?.values.forEach((value, i, all) => all.fill(-value, i, i + 1));
  const hatch = cube('Hatch', 1);
  hatch.faceCorners.subarray(8, 12).reverse();
  const board = cube('Board', 4);
  for (const { values } of board.uvSets) values.fill(0.4);
  const mat = cube('Mat', 5);
  for (const { values } of mat.uvSets) values.forEach((value, i, all) => all.fill(value * 3, i, i + 1));
  const bar = cube('Bar', 7);
  bar.normals?.values.fill(0);
  const [wedge, plate] = [withFace(cube('Wedge', 8), [0, 1, 0]), withFace(cube('Plate', 9), [4, 5, 7, 6])];
  withParts(document, [
    ['Crate', crate, 2],
    ['Hatch', hatch, 2],
    ['Gate', box('Gate', [0.8, 0.8, 0.1]), 4],
    ['Sign', { ...cube('Sign', 3), uvSets: [] }, 0],
    ['Board', board, 0],
    ['Mat', mat, 1],
    ['Ring', { ...cube('Ring', 6), normals: null }, 5],
    ['Bar', bar, 5],
    ['Wedge', wedge, 5],
    ['Plate', plate, 5],
    ['Bell', box('Bell', [0.3, 0.4, 0.3]), 5],
    ['Stone', cube('Stone', 11), -1],
  ]);
  const named = (name: string) => document.nodes.find((node) => node.name === name) as SceneNode;
  Object.assign(named('Gate').transform, { translation: at(2), scale: [-1, 1, 1] });
  Object.assign(named('Bell').transform, { translation: [0, 30, 0], geometricTranslation: [3, -29.6, 3] });
  return document;
}

function spares(): SceneDocument {
  const document = scene([plain('Iron', 0.2)]);
  return withParts(document, [
    ['Bolt', box('Bolt', [0.1, 0.3, 0.1]), 0],
    ['Bolt', box('Bolt', [0.1, 0.3, 0.1], [0.4, 0, 0]), 0],
  ]);
}

function lone(name: string, mesh: PolygonMesh): SceneDocument {
  return withParts(scene([plain('Iron', 0.2)]), [[name, mesh, 0]]);
}

function scene(materials: Material[]): SceneDocument {
  const document = createDocument('fbx', 'text');
  const images = [{ key: TIMBER, written: TIMBER, relative: TIMBER, embedded: null }];
  return Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: true, materials, images });
}

function withParts(
  document: SceneDocument,
  parts: readonly (readonly [string, PolygonMesh, number])[],
): SceneDocument {
  for (const [name, mesh, material] of parts) {
    document.nodes.push(
      createNode(name, 'mesh', -1, { mesh: document.meshes.length, materials: [material] }),
    );
    document.meshes.push(mesh);
  }
  return document;
}

/** The mesh with one more face, which takes the normal and the UVs of the first. */
function withFace(mesh: PolygonMesh, corners: number[]): PolygonMesh {
  const more = <T extends PolygonMesh['normals']>(layer: T): T =>
    layer?.index
      ? {
          ...layer,
          index: Uint32Array.of(...layer.index, ...corners.map((_, i) => (layer.index as Uint32Array)[i])),
        }
      : layer;
  return {
    ...mesh,
    faceCounts: Uint32Array.of(...mesh.faceCounts, corners.length),
    faceCorners: Uint32Array.of(...mesh.faceCorners, ...corners),
    normals: more(mesh.normals),
    uvSets: mesh.uvSets.map(more),
  };
}

function wood(name: string, shade: number): Material {
  const material = plain(name, shade);
  material.channels.baseColor = {
    value: [shade, shade, shade],
    map: createMapUse(TIMBER, 'baseColor'),
    source: { from: 'file', detail: '' },
  };
  return material;
}

function plain(name: string, shade: number): Material {
  const material = createMaterial(name, 'metalRough');
  const source = { from: 'file' as const, detail: '' };
  material.channels.baseColor = { value: [shade, shade * 0.9, shade * 0.8], map: null, source };
  material.channels.metalness = { value: 0, map: null, source };
  material.channels.roughness = { value: 0.8, map: null, source };
  return material;
}

/** Boards along u with their grain. */
async function timber(): Promise<Uint8Array> {
  const data = new Uint8Array(SIZE * SIZE * 3);
  for (let y = 0; y < SIZE; y += 1) {
    for (let x = 0; x < SIZE; x += 1) {
      const grain = Math.sin(y * 0.9 + Math.sin(x * 0.11) * 2.2) * 0.5 + Math.sin(y * 2.7 + x * 0.05) * 0.3;
      const gap = y % 32 < 2 ? 0.45 : 1;
      const shade = gap * (0.8 + 0.12 * grain + ((x * 7 + y * 13) % 11) * 0.006);
      [148, 108, 70].forEach((value, k) => {
        data[(y * SIZE + x) * 3 + k] = Math.round(Math.min(1, shade) * value);
      });
    }
  }
  return encodeImage({ width: SIZE, height: SIZE, components: 3, data }, 'png');
}
