import { encodeImage } from '@kinkajou/core/images/encode';
import type { Vec3 } from '@kinkajou/core/scene/document';
import { createNoise, fractal, mix, smoothstep } from './noise.ts';
import { normalsFromHeight, type PaintedMaps, type Painter, paint, toPng } from './paint.ts';
import type { DemoParcel } from './scene.ts';
import { circlePath, lathe, placed, ShapeBuilder, tube } from './shapes.ts';
import { rope } from './surfaces.ts';
import { type UsdTexture, writeUsdaFile } from './writeUsdaFile.ts';

const SIZE = 512;
/** Tiles of the hull along its length, from stem to stern. */
const TILES = 3;
const LENGTH = 7.2;
const FOLDER = 'pilot-boat/';

/**
 * The pilot boat of Harrow Quay, 7.2 m, as USD in metres: the hull's maps are tiles, its base colour half
 * floats in linear Rec.709; the deck has its own set.
 */
export async function pilotBoat(): Promise<DemoParcel> {
  const files: Record<string, Uint8Array> = {};
  for (let tile = 0; tile < TILES; tile += 1) {
    const maps = paint(SIZE, hullSkin(70, tile));
    const number = 1001 + tile;
    files[`${FOLDER}maps/boat_hull_basecolor.${number}.exr`] = await linearExr(maps);
    files[`${FOLDER}maps/boat_hull_roughness.${number}.png`] = await toPng(maps.roughness, 1);
    files[`${FOLDER}maps/boat_hull_normal.${number}.png`] = await toPng(normalsFromHeight(maps, 6), 3);
  }
  // One tile of the normal map was left behind on the painter's machine.
  delete files[`${FOLDER}maps/boat_hull_normal.1003.png`];
  const deck = paint(SIZE, planks(71));
  files[`${FOLDER}maps/boat_deck_basecolor.png`] = await toPng(deck.colour, 3);
  files[`${FOLDER}maps/boat_deck_roughness.png`] = await toPng(deck.roughness, 1);
  files[`${FOLDER}maps/boat_deck_normal.png`] = await toPng(normalsFromHeight(deck, 8), 3);
  const line = paint(SIZE, rope(72));
  files[`${FOLDER}maps/boat_rope_basecolor.png`] = await toPng(line.colour, 3);
  files[`${FOLDER}boat.usda`] = writeModel();
  return {
    id: 'pilot-boat',
    title: 'Pilot boat',
    files,
    faults: [
      {
        code: 'tiles.gap',
        subject: 'boat_hull_normal.<UDIM>.png',
        why: 'tile 1003 was not delivered, and faces lie there',
      },
      { code: 'colour.linearAsEncoded', subject: 'Hull', why: 'linear half floats tagged sRGB' },
      { code: 'colour.dataAsColour', subject: 'Deck', why: 'roughness tagged sRGB' },
    ],
  };
}

async function linearExr({ size, colour }: PaintedMaps): Promise<Uint8Array> {
  const decode = (value: number) => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);
  const clamped = colour.map((value) => decode(Math.min(1, Math.max(0, value))));
  return encodeImage({ width: size, height: size, components: 3, data: clamped }, 'exr', { depth: 16 });
}

/** Half breadth and height of the hull's skin: `s` from stem 0 to stern 1, `t` from keel 0 to rail 1. */
function hullPoint(s: number, t: number): [breadth: number, height: number, length: number] {
  const full = Math.sin(Math.PI * Math.min(0.82, 0.06 + s * 0.76)) ** 0.72;
  const flare = t ** (0.42 + 0.5 * (1 - s) ** 2);
  const sheer = 0.95 + 0.42 * (1 - s) ** 2 + 0.06 * s * s;
  const keel = -0.42 * smoothstep(0, 0.28, s);
  const rake = 0.7 * (1 - s) ** 3 * t;
  return [1.12 * full * flare, mix(keel, sheer, t), (s - 0.5) * LENGTH - rake];
}

function hull(): ReturnType<ShapeBuilder['finish']> {
  const shape = new ShapeBuilder();
  const [along, around] = [60, 12];
  // Port and starboard rows meet at the keel; v runs from rail to rail, so that both sides have their own
  // pixels.
  const rows = Array.from({ length: along + 1 }, (_, i) => {
    const s = i / along;
    return Array.from({ length: 2 * around + 1 }, (_, j) => {
      const side = j < around ? -1 : 1;
      const t = Math.abs(j - around) / around;
      const at = (a: number, b: number): Vec3 => {
        const [x, y, z] = hullPoint(a, b);
        return [side * x, y, z];
      };
      const [p, ps, pt] = [at(s, t), at(Math.min(1, s + 0.01), t), at(s, Math.min(1, t + 0.02))];
      const [back, down] = [at(Math.max(0, s - 0.01), t), at(s, Math.max(0, t - 0.02))];
      const normal = cross(minus(ps, back), minus(pt, down)).map((value) => value * -side) as Vec3;
      return {
        point: shape.point(p),
        normal: shape.normal(normal),
        uv: shape.uv(s * TILES * 0.9999, j / (2 * around)),
      };
    });
  });
  for (let i = 0; i < along; i += 1)
    for (let j = 0; j < 2 * around; j += 1)
      shape.face([rows[i][j + 1], rows[i + 1][j + 1], rows[i + 1][j], rows[i][j]]);
  return shape.finish('Hull');
}

/** The deck a little below the rail, and the flat of the stern. */
function deck(): ReturnType<ShapeBuilder['finish']> {
  const shape = new ShapeBuilder();
  const along = 40;
  const up = shape.normal([0, 1, 0]);
  const rows = Array.from({ length: along + 1 }, (_, i) => {
    const [x, y, z] = hullPoint(i / along, 0.9);
    return [-1, 1].map((side) => ({
      point: shape.point([side * x * 0.985, y, z]),
      normal: up,
      uv: shape.uv(0.5 + (side * x) / 2.4, (i / along) * 3),
    }));
  });
  for (let i = 0; i < along; i += 1) shape.face([rows[i][0], rows[i + 1][0], rows[i + 1][1], rows[i][1]]);
  const aft = shape.normal([0, 0, 1]);
  const edge = Array.from({ length: 13 }, (_, k) => {
    const [x, y, z] = hullPoint(1, k / 12);
    return { x, y, z };
  });
  const ring = [
    ...edge.map(({ x, y, z }) => [x, y, z] as Vec3),
    ...[...edge].reverse().map(({ x, y, z }) => [-x, y, z] as Vec3),
  ];
  shape.face(ring.map((p) => ({ point: shape.point(p), normal: aft, uv: shape.uv(0.5 + p[0] / 2.4, p[1]) })));
  return shape.finish('Deck');
}

/** A wheelhouse with slanted front, closed by its roof. */
function cabin(): ReturnType<ShapeBuilder['finish']> {
  const shape = new ShapeBuilder();
  const low: Vec3[] = [
    [-0.62, 0.9, -0.9],
    [0.62, 0.9, -0.9],
    [0.7, 0.9, 1.1],
    [-0.7, 0.9, 1.1],
  ];
  const high: Vec3[] = [
    [-0.52, 2.15, -0.55],
    [0.52, 2.15, -0.55],
    [0.58, 2.15, 1],
    [-0.58, 2.15, 1],
  ];
  for (let i = 0; i < 4; i += 1) {
    const next = (i + 1) % 4;
    const quad = [low[next], low[i], high[i], high[next]];
    const normal = shape.normal(
      cross(minus(quad[1], quad[0]), minus(quad[3], quad[0])).map((value) => -value) as Vec3,
    );
    shape.face(
      quad
        .map((p, k) => ({ point: shape.point(p), normal, uv: shape.uv([0, 1, 1, 0][k], [0, 0, 1, 1][k]) }))
        .reverse(),
    );
  }
  const roof = shape.normal([0, 1, 0]);
  shape.face(
    [...high].reverse().map((p, k) => ({
      point: shape.point([p[0] * 1.1, p[1], p[2] * 1.06]),
      normal: roof,
      uv: shape.uv([0, 1, 1, 0][k], [0, 0, 1, 1][k]),
    })),
  );
  return shape.finish('Wheelhouse');
}

function writeModel(): Uint8Array {
  const texture = (input: string, file: string, output: UsdTexture['output'], space: string): UsdTexture => ({
    input,
    path: `./maps/${file}`,
    output,
    space,
  });
  const rail = Array.from({ length: 81 }, (_, i) => {
    const s = i <= 40 ? i / 40 : (80 - i) / 40;
    const [x, y, z] = hullPoint(s, 1);
    return [(i <= 40 ? 1 : -1) * x, y + 0.02, z] as Vec3;
  });
  const mast = lathe(
    'Mast',
    [
      [
        [0.035, 0],
        [0.02, 1.9],
        [0, 1.92],
      ],
    ],
    { segments: 16 },
  );
  const parts = [
    { name: 'Hull', mesh: hull(), material: 'Hull' },
    { name: 'Deck', mesh: deck(), material: 'Deck' },
    { name: 'Wheelhouse', mesh: cabin(), material: 'Deck' },
    { name: 'Rail', mesh: tube('Rail', rail, 0.045, { segments: 10 }), material: 'Rope' },
    {
      name: 'Ring',
      mesh: tube('Ring', circlePath(0.28, 0, 40, [0, 2.2, 0.4]), 0.05, { segments: 10, closed: true }),
      material: 'Rope',
    },
    { name: 'Mast', mesh: placed(mast, ([x, y, z]) => [x, y + 2.15, z + 0.6]), material: 'Deck' },
  ];
  return writeUsdaFile('boat', parts, [
    {
      name: 'Hull',
      textures: [
        texture('diffuseColor', 'boat_hull_basecolor.<UDIM>.exr', 'rgb', 'sRGB'),
        texture('roughness', 'boat_hull_roughness.<UDIM>.png', 'r', 'raw'),
        texture('normal', 'boat_hull_normal.<UDIM>.png', 'rgb', 'raw'),
      ],
      values: ['float inputs:metallic = 0'],
    },
    {
      name: 'Deck',
      textures: [
        texture('diffuseColor', 'boat_deck_basecolor.png', 'rgb', 'sRGB'),
        texture('roughness', 'boat_deck_roughness.png', 'r', 'sRGB'),
        texture('normal', 'boat_deck_normal.png', 'rgb', 'raw'),
      ],
      values: ['float inputs:metallic = 0'],
    },
    {
      name: 'Rope',
      textures: [texture('diffuseColor', 'boat_rope_basecolor.png', 'rgb', 'sRGB')],
      values: ['float inputs:roughness = 0.9', 'float inputs:metallic = 0'],
    },
  ]);
}

/** Green topsides over a white line and red below the water, weathered; `tile` counts from the stem. */
function hullSkin(seed: number, tile: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const s = u + tile;
    // v runs from one rail over the keel to the other: height above the keel is the distance from the middle.
    const height = Math.abs(v - 0.5) * 2;
    const fine = fractal(noise, s, v, 40, 40, 3);
    const worn = smoothstep(0.2, 0.5, fractal(noise, s + 0.3, v, 5, 5, 5));
    const wave = 0.46 + 0.02 * fractal(noise, s, 0.5, 6, 6, 3);
    const [r, g, b] = hullColour(height, wave);
    const grime = smoothstep(0.3, 0, Math.abs(height - wave)) * 0.35 * (0.6 + 0.4 * fine);
    const seam = smoothstep(0.06, 0.02, Math.abs(((height * 9) % 1) - 0.5)) * 0.5;
    out.r = mix(mix(r, 0.45, worn * 0.25), 0.3, grime) * (1 + 0.05 * fine - 0.12 * seam);
    out.g = mix(mix(g, 0.43, worn * 0.25), 0.29, grime) * (1 + 0.05 * fine - 0.12 * seam);
    out.b = mix(mix(b, 0.38, worn * 0.25), 0.22, grime) * (1 + 0.05 * fine - 0.12 * seam);
    out.metalness = 0;
    out.roughness = 0.32 + 0.3 * worn + 0.2 * grime + 0.05 * fine;
    out.height = 0.5 - 0.18 * seam + 0.05 * fine + 0.06 * worn;
    out.occlusion = 1;
  };
}

function hullColour(height: number, wave: number): [number, number, number] {
  if (height < wave) return [0.52, 0.13, 0.1];
  return height < wave + 0.06 ? [0.86, 0.84, 0.78] : [0.12, 0.32, 0.27];
}

/** Scrubbed planks with dark seams. */
function planks(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const board = Math.floor(u * 12);
    const across = u * 12 - board;
    const grain = fractal(noise, u * 4 + board * 0.37, v, 24, 6, 4);
    const tone = 0.5 + 0.5 * noise(board * 0.13 + 0.05, 0.5, 12, 12);
    const seam = smoothstep(0.06, 0.015, Math.min(across, 1 - across));
    out.r = mix(mix(0.62, 0.72, tone) + 0.07 * grain, 0.14, seam);
    out.g = mix(mix(0.47, 0.56, tone) + 0.07 * grain, 0.12, seam);
    out.b = mix(mix(0.31, 0.38, tone) + 0.06 * grain, 0.1, seam);
    out.metalness = 0;
    out.roughness = 0.68 + 0.12 * grain + 0.1 * seam;
    out.height = 0.6 + 0.05 * grain - 0.4 * seam;
    out.occlusion = 1;
  };
}

function cross(a: Vec3, b: Vec3): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

function minus(a: Vec3, b: Vec3): Vec3 {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
}
