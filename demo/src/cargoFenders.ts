import { FAULTS, type Fender, SIZE, texture } from './fenderFaults.ts';
import { createNoise, fractal, mix, smoothstep } from './noise.ts';
import { normalsFromHeight, type Painter, paint, toPng } from './paint.ts';
import type { DemoParcel } from './scene.ts';
import { lathe, type Profile, smoothProfile } from './shapes.ts';
import { writeUsdaFile } from './writeUsdaFile.ts';

const COUNT = 40;
/** Body colours, sRGB. */
const COLOURS = [
  [0.78, 0.33, 0.12],
  [0.16, 0.33, 0.5],
  [0.83, 0.62, 0.16],
  [0.24, 0.42, 0.3],
  [0.62, 0.16, 0.15],
] as const;

/**
 * Forty fenders of the quay for work in bulk, as USD in metres. Each of the first ones has one fault, the
 * rest none.
 */
export async function cargoFenders(): Promise<DemoParcel> {
  return fendersOf(Array.from({ length: COUNT }, (_, i) => i + 1));
}

/** Some of the fenders, by their numbers from 1. */
export async function fendersOf(numbers: readonly number[]): Promise<DemoParcel> {
  const files: Record<string, Uint8Array> = {};
  const faults: DemoParcel['faults'] = [];
  for (const number of numbers) {
    const fender = await makeFender(number - 1);
    const fault = FAULTS[number - 1];
    if (fault) {
      await fault.bend(fender);
      const subject = (fault.subject ?? MATERIAL).replaceAll('{name}', fender.name);
      faults.push({
        code: fault.code,
        subject,
        why: fault.why,
        model: `cargo-fenders/${fender.name}/${fender.name}.usda`,
      });
    }
    const folder = `cargo-fenders/${fender.name}/`;
    files[`${folder}${fender.name}.usda`] = writeModel(fender);
    for (const [name, bytes] of Object.entries(fender.files)) files[folder + name] = bytes;
  }
  return { id: 'cargo-fenders', title: 'Cargo fenders', files, faults };
}

/** The number of the fender that carries a fault. */
export function fenderWith(code: string): number {
  const at = FAULTS.findIndex((fault) => fault.code === code);
  if (at < 0) throw new Error(`no fender carries ${code}`);
  return at + 1;
}

const MATERIAL = 'Rubber';

async function makeFender(index: number): Promise<Fender> {
  const name = `berth_${String(index + 1).padStart(2, '0')}`;
  const maps = paint(SIZE, fenderSkin(300 + index, COLOURS[index % COLOURS.length]));
  const normals = normalsFromHeight(maps, 7);
  return {
    name,
    maps,
    normals,
    files: {
      [`${name}_basecolor.png`]: await toPng(maps.colour, 3),
      [`${name}_roughness.png`]: await toPng(maps.roughness, 1),
      [`${name}_normal.png`]: await toPng(normals, 3),
    },
    material: {
      name: MATERIAL,
      textures: [
        texture('diffuseColor', `./${name}_basecolor.png`, 'rgb', 'sRGB'),
        texture('roughness', `./${name}_roughness.png`, 'r', 'raw'),
        texture('normal', `./${name}_normal.png`, 'rgb', 'raw'),
      ],
      values: ['float inputs:metallic = 0'],
    },
    more: [],
    tiles: 1,
  };
}

/** Ribbed rubber in one colour, scuffed to grey where it rubs against the quay. */
function fenderSkin(seed: number, [r, g, b]: readonly [number, number, number]): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const scuff = smoothstep(0.15, 0.6, fractal(noise, u, v, 6, 6, 5)) * 0.5;
    const grain = fractal(noise, u + 0.3, v, 48, 48, 3);
    const rib = 0.5 + 0.5 * Math.cos(v * Math.PI * 2 * 8);
    const knob = smoothstep(0.35, 0.2, Math.hypot(((u * 12) % 1) - 0.5, ((v * 8 + 0.5) % 1) - 0.5));
    const shade = 1 + 0.12 * grain - 0.18 * (1 - rib);
    out.r = mix(r, 0.5, scuff) * shade;
    out.g = mix(g, 0.48, scuff) * shade;
    out.b = mix(b, 0.45, scuff) * shade;
    out.metalness = 0;
    out.roughness = 0.55 + 0.25 * scuff + 0.12 * grain;
    out.height = 0.3 + 0.25 * rib + 0.3 * knob + 0.05 * grain;
    out.occlusion = 1 - 0.35 * (1 - rib) * (1 - knob);
  };
}

const BODY: Profile = [
  [0.06, 0],
  [0.19, 0.06],
  [0.21, 0.3],
  [0.21, 0.7],
  [0.19, 0.94],
  [0.06, 1],
];

function writeModel({ name, material, more, tiles }: Fender): Uint8Array {
  const skin = lathe('Body', [smoothProfile(BODY, 4)], { segments: 32, repeatU: tiles });
  const eye = lathe(
    'Eye',
    [
      smoothProfile(
        [
          [0.06, 1],
          [0.05, 1.03],
          [0.02, 1.05],
          [0, 1.05],
        ],
        3,
      ),
    ],
    { segments: 24 },
  );
  const second = more[0]?.name ?? material.name;
  const parts = [
    { name: 'Body', mesh: skin, material: material.name },
    { name: 'Eye', mesh: eye, material: second },
  ];
  return writeUsdaFile(name, parts, [material, ...more]);
}
