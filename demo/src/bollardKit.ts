import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';
import { createNoise, fractal, mix, smoothstep } from './noise.ts';
import { normalsFromHeight, type Painter, paint, toPng } from './paint.ts';
import type { DemoParcel, DemoPart } from './scene.ts';
import { box, circlePath, lathe, type Profile, placed, smoothProfile, tube } from './shapes.ts';
import { brass, iron, rope, rubber } from './surfaces.ts';
import { type FbxMaterialSpec, writeFbxFile } from './writeFbxFile.ts';

const FOLDER = 'bollard-kit/';
/** Metres to the file's centimetres. */
const CM = 100;

interface Finish {
  name: string;
  painter: Painter;
  /** How deep the bumps of its normal map are; 0 for none. */
  bumps: number;
}

/** What the kit is made of: fourteen materials, each with a colour, a roughness and mostly a normal map. */
const FINISHES: readonly Finish[] = [
  { name: 'CastIron', painter: iron(71), bumps: 7 },
  { name: 'RedPaint', painter: paintCoat(72, [0.66, 0.12, 0.09]), bumps: 3 },
  { name: 'WhitePaint', painter: paintCoat(73, [0.86, 0.84, 0.78]), bumps: 3 },
  { name: 'GreenPaint', painter: paintCoat(74, [0.12, 0.36, 0.26]), bumps: 3 },
  { name: 'Oak', painter: wood(75, [0.55, 0.38, 0.21]), bumps: 6 },
  { name: 'Pine', painter: wood(76, [0.76, 0.6, 0.38]), bumps: 5 },
  { name: 'TarredPine', painter: wood(77, [0.2, 0.16, 0.13]), bumps: 5 },
  { name: 'Granite', painter: stone(78, [0.52, 0.51, 0.5]), bumps: 8 },
  { name: 'Slate', painter: stone(79, [0.27, 0.3, 0.33]), bumps: 6 },
  { name: 'Brass', painter: brass(80), bumps: 5 },
  { name: 'Zinc', painter: sheetMetal(81), bumps: 2 },
  { name: 'Rope', painter: rope(82), bumps: 9 },
  { name: 'Rubber', painter: rubber(83), bumps: 4 },
  { name: 'Opal', painter: opal(84), bumps: 0 },
];

/** The groups of the kit; each may become a file of its own. */
export const KIT_GROUPS = ['bollards', 'benches', 'crates', 'lamps', 'ladders', 'rings'] as const;
/** Names of the kit's materials. */
export const KIT_MATERIALS = FINISHES.map(({ name }) => name);

/**
 * The bollard kit of Harrow Quay: quay furniture in six groups with fourteen materials, as FBX in
 * centimetres.
 */
export async function bollardKit(): Promise<DemoParcel> {
  return kitOf(512);
}

/** The kit, or some groups of it, with maps of any size; the bench packs large ones. */
export async function kitOf(size: number, groups: readonly string[] = KIT_GROUPS): Promise<DemoParcel> {
  const parts = kitParts().filter(({ parent }) => groups.includes(parent ?? ''));
  const finishes = FINISHES.filter(({ name }) => parts.some((part) => part.material === name));
  const files: DemoParcel['files'] = {
    [`${FOLDER}kit.fbx`]: writeFbxFile(parts, finishes.map(material), 'Harrow Quay smithy', groups),
  };
  for (const { name, painter, bumps } of finishes) {
    const maps = paint(size, painter);
    const stem = `${FOLDER}maps/kit_${name.toLowerCase()}`;
    files[`${stem}_basecolor.png`] = await toPng(maps.colour, 3);
    files[`${stem}_roughness.png`] = await toPng(maps.roughness, 1);
    if (bumps > 0) files[`${stem}_normal.png`] = await toPng(normalsFromHeight(maps, bumps), 3);
  }
  const tinted = (subject: string, why: string) =>
    finishes.some(({ name }) => name === subject) ? [{ code: 'surface.tint', subject, why }] : [];
  return {
    id: 'bollard-kit',
    title: 'Bollard kit',
    files,
    faults: [
      ...finishes.map(({ name }) => ({
        code: 'slot.candidate',
        subject: name,
        why: 'the classic material has no place for roughness; its map lies beside',
      })),
      ...tinted('Pine', 'the colour of the swatch multiplies the image'),
      ...tinted('Slate', 'a blue factor over the slate'),
    ],
  };
}

const TINTS: Record<string, Vec3> = { Pine: [0.8, 0.6, 0.4], Slate: [0.5, 0.6, 0.9] };

function material({ name, bumps }: Finish): FbxMaterialSpec {
  const file = (suffix: string) => `maps/kit_${name.toLowerCase()}_${suffix}.png`;
  const texture = (property: string, suffix: string) => ({
    property,
    fileName: file(suffix),
    relativeFileName: file(suffix),
  });
  return {
    name,
    diffuse: TINTS[name] ?? [1, 1, 1],
    specular: [0.04, 0.04, 0.04],
    exponent: 20,
    textures: [texture('DiffuseColor', 'basecolor'), ...(bumps > 0 ? [texture('NormalMap', 'normal')] : [])],
  };
}

/** Every part in metres, then brought to centimetres and to its place on the quay. */
function kitParts(): DemoPart[] {
  const parts: DemoPart[] = [];
  const add = (group: string, name: string, finish: string, mesh: PolygonMesh, at: Vec3) => {
    const inCentimetres = placed(mesh, ([x, y, z]) => [x * CM, y * CM, z * CM]);
    parts.push({
      name,
      material: finish,
      mesh: { ...inCentimetres, name },
      translation: [at[0] * CM, at[1] * CM, at[2] * CM],
      parent: group,
    });
  };
  for (let i = 0; i < 5; i += 1) bollard(i, [i * 1.4 - 2.8, 0, 1.2], add);
  for (let i = 0; i < 3; i += 1) bench(i, [i * 2.2 - 2.2, 0, -0.4], add);
  for (let i = 0; i < 4; i += 1) crate(i, [i * 0.75 - 2.7, 0, -1.7], add);
  for (let i = 0; i < 2; i += 1) lamp(i, [i * 3.6 - 1.8, 0, -2.6], add);
  for (let i = 0; i < 2; i += 1) ladder(i, [i * 1.2 + 1.4, 0, -1.7], add);
  for (let i = 0; i < 4; i += 1) mooringRing(i, [i * 0.9 - 1.35, 0, 2.2], add);
  return parts;
}

type Add = (group: string, name: string, finish: string, mesh: PolygonMesh, at: Vec3) => void;

const BODY: Profile = smoothProfile(
  [
    [0.16, 0.12],
    [0.13, 0.2],
    [0.115, 0.42],
    [0.14, 0.56],
  ],
  5,
);
const HEAD: Profile = smoothProfile(
  [
    [0.14, 0.56],
    [0.21, 0.6],
    [0.2, 0.68],
    [0.08, 0.74],
    [0, 0.745],
  ],
  6,
);

function bollard(i: number, at: Vec3, add: Add): void {
  const name = `bollard_${i + 1}`;
  const finish = ['CastIron', 'RedPaint', 'GreenPaint'][i % 3];
  add(
    'bollards',
    `${name}_plinth`,
    i % 2 === 0 ? 'Granite' : 'Slate',
    box(name, [0.5, 0.12, 0.5], [0, 0.06, 0], 0.5),
    at,
  );
  add(
    'bollards',
    `${name}_post`,
    finish,
    lathe(name, [BODY], { segments: 40, repeatU: 2, lengthV: 0.4 }),
    at,
  );
  add(
    'bollards',
    `${name}_head`,
    i % 3 === 1 ? 'WhitePaint' : finish,
    lathe(name, [HEAD], { segments: 40, repeatU: 2, lengthV: 0.4 }),
    at,
  );
  if (i % 2 === 1) {
    for (let turn = 0; turn < 3; turn += 1) {
      const loop = tube(name, circlePath(0.135, 0.3 + turn * 0.045, 48), 0.022, {
        segments: 12,
        closed: true,
        lengthU: 0.2,
      });
      add('bollards', `${name}_rope_${turn + 1}`, 'Rope', loop, at);
    }
  }
}

function bench(i: number, at: Vec3, add: Add): void {
  const name = `bench_${i + 1}`;
  const finish = ['Oak', 'Pine', 'TarredPine'][i];
  for (let plank = 0; plank < 3; plank += 1)
    add(
      'benches',
      `${name}_seat_${plank + 1}`,
      finish,
      box(name, [1.5, 0.04, 0.12], [0, 0.44, plank * 0.14 - 0.14], 0.8),
      at,
    );
  for (let plank = 0; plank < 2; plank += 1)
    add(
      'benches',
      `${name}_back_${plank + 1}`,
      finish,
      box(name, [1.5, 0.12, 0.035], [0, 0.6 + plank * 0.16, -0.24], 0.8),
      at,
    );
  for (const side of [-1, 1]) {
    add(
      'benches',
      `${name}_leg_${side < 0 ? 'left' : 'right'}`,
      'CastIron',
      box(name, [0.06, 0.42, 0.4], [side * 0.62, 0.21, -0.02], 0.5),
      at,
    );
    add(
      'benches',
      `${name}_foot_${side < 0 ? 'left' : 'right'}`,
      'Rubber',
      box(name, [0.09, 0.02, 0.44], [side * 0.62, 0.01, -0.02], 0.5),
      at,
    );
  }
}

function crate(i: number, at: Vec3, add: Add): void {
  const name = `crate_${i + 1}`;
  const finish = ['Pine', 'Oak', 'TarredPine', 'Pine'][i];
  for (let row = 0; row < 4; row += 1) {
    const y = 0.07 + row * 0.12;
    add('crates', `${name}_front_${row + 1}`, finish, box(name, [0.6, 0.1, 0.02], [0, y, 0.24], 0.6), at);
    add('crates', `${name}_back_${row + 1}`, finish, box(name, [0.6, 0.1, 0.02], [0, y, -0.24], 0.6), at);
  }
  for (const side of [-1, 1])
    add(
      'crates',
      `${name}_end_${side < 0 ? 'left' : 'right'}`,
      finish,
      box(name, [0.02, 0.48, 0.46], [side * 0.29, 0.25, 0], 0.6),
      at,
    );
  add('crates', `${name}_floor`, finish, box(name, [0.56, 0.02, 0.46], [0, 0.02, 0], 0.6), at);
  add('crates', `${name}_band`, 'Zinc', box(name, [0.62, 0.03, 0.51], [0, 0.4, 0], 0.4), at);
}

function lamp(i: number, at: Vec3, add: Add): void {
  const name = `lamp_${i + 1}`;
  add('lamps', `${name}_foot`, 'Granite', box(name, [0.4, 0.2, 0.4], [0, 0.1, 0], 0.5), at);
  add(
    'lamps',
    `${name}_post`,
    i === 0 ? 'GreenPaint' : 'CastIron',
    tube(
      name,
      [
        [0, 0.2, 0],
        [0, 1.2, 0],
        [0, 2.3, 0],
      ],
      0.045,
      { segments: 24, lengthU: 0.6 },
    ),
    at,
  );
  const globe = lathe(
    name,
    [
      smoothProfile(
        [
          [0, 2.3],
          [0.1, 2.34],
          [0.15, 2.46],
          [0.1, 2.58],
          [0, 2.62],
        ],
        6,
      ),
    ],
    { segments: 40 },
  );
  add('lamps', `${name}_globe`, 'Opal', globe, at);
  add(
    'lamps',
    `${name}_collar`,
    'Brass',
    tube(name, circlePath(0.07, 2.32, 40), 0.014, { segments: 12, closed: true, lengthU: 0.2 }),
    at,
  );
  add(
    'lamps',
    `${name}_cap`,
    'Brass',
    lathe(
      name,
      [
        [
          [0.09, 2.6],
          [0.05, 2.66],
          [0, 2.68],
        ],
      ],
      { segments: 32 },
    ),
    at,
  );
}

function ladder(i: number, at: Vec3, add: Add): void {
  const name = `ladder_${i + 1}`;
  for (const side of [-1, 1])
    add(
      'ladders',
      `${name}_rail_${side < 0 ? 'left' : 'right'}`,
      i === 0 ? 'Zinc' : 'Oak',
      box(name, [0.05, 2.2, 0.05], [side * 0.22, 1.1, 0], 0.6),
      at,
    );
  for (let rung = 0; rung < 7; rung += 1)
    add(
      'ladders',
      `${name}_rung_${rung + 1}`,
      i === 0 ? 'CastIron' : 'Pine',
      tube(
        name,
        [
          [-0.22, 0.25 + rung * 0.28, 0],
          [0, 0.25 + rung * 0.28, 0],
          [0.22, 0.25 + rung * 0.28, 0],
        ],
        0.018,
        { segments: 16, lengthU: 0.3 },
      ),
      at,
    );
}

function mooringRing(i: number, at: Vec3, add: Add): void {
  const name = `ring_${i + 1}`;
  add(
    'rings',
    `${name}_plate`,
    i % 2 === 0 ? 'Zinc' : 'Brass',
    box(name, [0.24, 0.03, 0.24], [0, 0.015, 0], 0.3),
    at,
  );
  const flat = tube(name, circlePath(0.12, 0, 48), 0.018, { segments: 14, closed: true, lengthU: 0.2 });
  const standing = placed(
    flat,
    ([x, y, z]) => [x, z + 0.14, y],
    ([x, y, z]) => [x, z, y],
  );
  add('rings', `${name}_hoop`, i % 2 === 0 ? 'CastIron' : 'RedPaint', flipped(standing), at);
  add(
    'rings',
    `${name}_buffer`,
    'Rubber',
    lathe(
      name,
      [
        [
          [0.05, 0.03],
          [0.045, 0.06],
          [0, 0.065],
        ],
      ],
      { segments: 24 },
    ),
    at,
  );
}

/** Exchanging two axes mirrors, so the faces are turned round again. */
function flipped(mesh: PolygonMesh): PolygonMesh {
  const order: number[] = [];
  let start = 0;
  for (const count of mesh.faceCounts) {
    for (let k = 0; k < count; k += 1) order.push(start + ((count - k) % count));
    start += count;
  }
  const turned = <T extends PolygonMesh['normals']>(layer: T): T =>
    layer?.index
      ? { ...layer, index: Uint32Array.from(order, (from) => (layer.index as Uint32Array)[from]) }
      : layer;
  return {
    ...mesh,
    faceCorners: Uint32Array.from(order, (from) => mesh.faceCorners[from]),
    normals: turned(mesh.normals),
    uvSets: mesh.uvSets.map(turned),
  };
}

/** Paint on metal, chalked by the sun, with small chips. */
function paintCoat(seed: number, [r, g, b]: Vec3): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const chalk = smoothstep(0, 0.7, fractal(noise, u, v, 5, 5, 4)) * 0.25;
    const chip = smoothstep(0.36, 0.42, fractal(noise, u + 0.3, v, 14, 14, 4));
    const fine = fractal(noise, u, v, 70, 70, 2);
    out.r = mix(mix(r, 0.8, chalk), 0.33, chip) * (1 + 0.03 * fine);
    out.g = mix(mix(g, 0.78, chalk), 0.24, chip) * (1 + 0.03 * fine);
    out.b = mix(mix(b, 0.74, chalk), 0.18, chip) * (1 + 0.03 * fine);
    out.roughness = mix(0.38 + 0.35 * chalk, 0.85, chip);
    out.height = 0.6 - 0.25 * chip + 0.03 * fine;
  };
}

/** Planks along u: rings, grain and a few knots. */
function wood(seed: number, [r, g, b]: Vec3): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const wave = fractal(noise, u, v, 2, 3, 3);
    const ring = 0.5 + 0.5 * Math.sin((v * 9 + wave * 1.4) * Math.PI * 2);
    const grain = fractal(noise, u, v, 8, 120, 2);
    const knot = smoothstep(0.42, 0.56, fractal(noise, u, v, 3, 5, 2));
    const shade = 0.82 + 0.18 * ring + 0.1 * grain - 0.35 * knot;
    out.r = r * shade;
    out.g = g * shade;
    out.b = b * shade;
    out.roughness = 0.62 + 0.16 * ring + 0.08 * grain;
    out.height = 0.5 + 0.14 * ring + 0.14 * grain - 0.1 * knot;
  };
}

/** Dressed stone: grains of several greys, worn at large. */
function stone(seed: number, [r, g, b]: Vec3): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const grain = noise(u, v, 90, 90);
    const patch = fractal(noise, u, v, 6, 6, 5);
    const shade = 0.92 + 0.16 * grain + 0.2 * patch;
    out.r = r * shade;
    out.g = g * shade;
    out.b = b * shade;
    out.roughness = 0.72 + 0.12 * patch + 0.08 * grain;
    out.height = 0.5 + 0.2 * patch + 0.08 * grain;
  };
}

/** Galvanised sheet: large pale flakes. */
function sheetMetal(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const flake = Math.round((0.5 + 0.5 * fractal(noise, u, v, 14, 14, 2)) * 6) / 6;
    const fine = fractal(noise, u, v, 60, 60, 2);
    const shade = 0.62 + 0.12 * flake + 0.03 * fine;
    out.r = shade;
    out.g = shade * 1.01;
    out.b = shade * 1.03;
    out.metalness = 1;
    out.roughness = 0.34 + 0.2 * flake + 0.05 * fine;
    out.height = 0.5 + 0.1 * flake;
  };
}

/** Opal of a lamp, a little dusty below. */
function opal(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const dust = smoothstep(0.5, 0, v) * 0.3 + 0.1 * fractal(noise, u, v, 7, 7, 4);
    out.r = mix(0.9, 0.72, dust);
    out.g = mix(0.89, 0.68, dust);
    out.b = mix(0.84, 0.58, dust);
    out.roughness = 0.2 + 0.5 * Math.max(0, dust);
    out.height = 0.5;
  };
}
