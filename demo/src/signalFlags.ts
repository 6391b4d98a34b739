import { encodeImage } from '@kinkajou/core/images/encode';
import { createMesh, type PolygonMesh, type Vec3 } from '@kinkajou/core/scene/document';
import type { DemoParcel } from './scene.ts';
import { lathe, tube } from './shapes.ts';
import { type UsdPart, writeUsdaFile } from './writeUsdaFile.ts';

/** Swatches in a row, each 8 pixels wide: sRGB colour and roughness. */
const SWATCHES = [
  [[0.86, 0.84, 0.78], 0.85],
  [[0.7, 0.1, 0.08], 0.85],
  [[0.1, 0.2, 0.45], 0.85],
  [[0.86, 0.68, 0.12], 0.85],
  [[0.08, 0.08, 0.09], 0.85],
  [[0.45, 0.32, 0.18], 0.95],
  [[0.72, 0.62, 0.36], 0.3],
  [[0.5, 0.5, 0.52], 0.45],
] as const;
const CELL = 8;
const [WHITE, RED, BLUE, YELLOW, BLACK, ROPE, KNOB, POLE] = SWATCHES.keys();

/** Which swatch each place of a flag has; u from the halyard outwards, v downwards. */
const FLAGS: readonly ((u: number, v: number) => number)[] = [
  (u) => (u < 0.5 ? WHITE : RED),
  (_, v) => (v < 1 / 3 || v > 2 / 3 ? BLUE : WHITE),
  (u, v) => (Math.abs(u - 0.5) < 0.18 && Math.abs(v - 0.5) < 0.22 ? RED : YELLOW),
  (u, v) => (u < 0.5 === v < 0.5 ? BLACK : YELLOW),
  (u, v) => (Math.abs(u - v) < 0.12 || Math.abs(u + v - 1) < 0.12 ? WHITE : BLUE),
];

/** Signal flags of Harrow Quay on their staff: one palette of eight swatches for all, as USD in metres. */
export async function signalFlags(): Promise<DemoParcel> {
  const palette = await swatches((swatch) => [...SWATCHES[swatch][0]]);
  const finish = await swatches((swatch) => [SWATCHES[swatch][1]]);
  const material = {
    name: 'Palette',
    textures: [
      { input: 'diffuseColor', path: './flags_palette_basecolor.png', output: 'rgb' as const, space: 'sRGB' },
      { input: 'roughness', path: './flags_palette_roughness.png', output: 'r' as const, space: 'raw' },
    ],
    values: ['float inputs:metallic = 0'],
  };
  return {
    id: 'signal-flags',
    title: 'Signal flags',
    files: {
      'signal-flags/flags.usda': writeUsdaFile('flags', flagParts(), [material]),
      'signal-flags/flags_palette_basecolor.png': palette,
      'signal-flags/flags_palette_roughness.png': finish,
    },
    faults: [
      { code: 'palette.filtered', subject: 'Palette', why: 'swatches of colour, filtered smoothly' },
      { code: 'palette.filtered', subject: 'Palette', why: 'swatches of roughness, filtered smoothly' },
    ],
  };
}

async function swatches(of: (swatch: number) => number[]): Promise<Uint8Array> {
  const [width, height, components] = [SWATCHES.length * CELL, CELL, of(0).length];
  const data = new Uint8Array(width * height * components);
  for (let i = 0; i < width * height; i += 1)
    of(Math.floor((i % width) / CELL)).forEach(
      (value, k) => (data[i * components + k] = Math.round(value * 255)),
    );
  return encodeImage({ width, height, components, data }, 'png');
}

function uvOf(swatch: number): [number, number] {
  return [(swatch + 0.5) / SWATCHES.length, 0.5];
}

const COLUMNS = 42;
const ROWS = 30;

function flagParts(): UsdPart[] {
  const parts: UsdPart[] = FLAGS.map((pattern, i) => ({
    name: `Flag_${i + 1}`,
    mesh: flag(`Flag_${i + 1}`, pattern, i),
    material: 'Palette',
  }));
  parts.push({
    name: 'Staff',
    mesh: onSwatch(
      lathe(
        'Staff',
        [
          [
            [0.03, 0],
            [0.022, 3.1],
          ],
        ],
        { segments: 24 },
      ),
      POLE,
    ),
    material: 'Palette',
  });
  parts.push({
    name: 'Knob',
    mesh: onSwatch(
      lathe(
        'Knob',
        [
          [
            [0.022, 3.1],
            [0.05, 3.13],
            [0.055, 3.16],
            [0.04, 3.2],
            [0, 3.215],
          ],
        ],
        { segments: 28 },
      ),
      KNOB,
    ),
    material: 'Palette',
  });
  const halyard = Array.from({ length: 12 }, (_, i): Vec3 => [0.05, 0.4 + i * 0.24, 0.01 * Math.sin(i)]);
  parts.push({
    name: 'Halyard',
    mesh: onSwatch(tube('Halyard', halyard, 0.006, { segments: 8 }), ROPE),
    material: 'Palette',
  });
  return parts;
}

/** A flag in the wind; every face takes one point of the palette. */
function flag(name: string, pattern: (u: number, v: number) => number, place: number): PolygonMesh {
  const at = (u: number, v: number): Vec3 => [
    0.06 + u * 0.72,
    2.98 - place * 0.56 - v * 0.48 - 0.05 * u * u,
    0.06 * u * Math.sin(u * 8 + place * 1.3 + v * 0.8),
  ];
  const points: number[] = [];
  const normals: number[] = [];
  for (let row = 0; row <= ROWS; row += 1)
    for (let column = 0; column <= COLUMNS; column += 1) {
      const [u, v] = [column / COLUMNS, row / ROWS];
      points.push(...at(u, v));
      const [a, b] = [at(u + 1e-3, v), at(u - 1e-3, v)];
      const [x, z] = [a[0] - b[0], a[2] - b[2]];
      const length = Math.hypot(x, z);
      normals.push(-z / length, 0, x / length);
    }
  const corners: number[] = [];
  const uvs: number[] = [];
  for (let row = 0; row < ROWS; row += 1)
    for (let column = 0; column < COLUMNS; column += 1) {
      const first = row * (COLUMNS + 1) + column;
      corners.push(first, first + COLUMNS + 1, first + COLUMNS + 2, first + 1);
      for (let k = 0; k < 4; k += 1) uvs.push(...uvOf(pattern((column + 0.5) / COLUMNS, (row + 0.5) / ROWS)));
    }
  const index = Uint32Array.from(corners);
  return createMesh(name, {
    points: Float64Array.from(points),
    faceCounts: new Uint32Array(COLUMNS * ROWS).fill(4),
    faceCorners: index,
    normals: {
      name: 'normal',
      size: 3,
      domain: 'corner',
      values: Float64Array.from(normals),
      index: index.slice(),
    },
    uvSets: [
      {
        name: 'map1',
        size: 2,
        domain: 'corner',
        values: Float64Array.from(uvs),
        index: Uint32Array.from(index, (_, i) => i),
      },
    ],
  });
}

function onSwatch(mesh: PolygonMesh, swatch: number): PolygonMesh {
  const [layer] = mesh.uvSets;
  const values = new Float64Array(layer.values.length);
  for (let i = 0; i < values.length; i += 2) values.set(uvOf(swatch), i);
  return { ...mesh, uvSets: [{ ...layer, values }] };
}
