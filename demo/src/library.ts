import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { createNoise, fractal } from './noise.ts';
import { toPng } from './paint.ts';
import type { DemoPart } from './scene.ts';
import { box } from './shapes.ts';
import { writeObjFile } from './writeObjFile.ts';
import { type UsdMaterialSpec, writeUsdaFile } from './writeUsdaFile.ts';

/** What is known of an asset of the library: which rules must act on it, and what is truly in doubt. */
export interface LibraryTruth {
  family: string;
  /** Path of its model. */
  model: string;
  /** Names of the rules that change it or settle something of it. */
  rules: string[];
  /** Codes of what a person is to be asked. */
  asks: string[];
}

/** Files of a library of props, and what is true of them. */
export interface Library {
  files: Record<string, Uint8Array>;
  truth: LibraryTruth[];
}

/** How many there are of each family: 520 in all. */
export const FAMILIES = { crate: 100, fender: 90, flag: 90, lamp: 80, barrel: 80, coil: 80 } as const;
/** A kind of prop in the library. */
export type Family = keyof typeof FAMILIES;

const SIDE = 32;
/** Where the library was put together; nobody else has that folder. */
const ELSEWHERE = '/home/tove/quay/library';

/** Every so manieth lamp lacks an image that nobody has. */
const LOST = 10;

/** The house's own two rulebooks for the library, beside those that are built in. */
export const LIBRARY_RULEBOOKS: readonly Rulebook[] = [
  house('Library paths', [
    {
      name: 'The library lies here now',
      reason: 'it was moved',
      when: {},
      do: { do: 'link', from: ELSEWHERE, to: 'library' },
    },
  ]),
  house('Library names', [
    {
      name: 'Materials without their ending',
      reason: 'the yard calls them so',
      when: { material: '*_mtl' },
      do: { do: 'renameMaterial', to: '$1' },
    },
    { name: 'Bolts are not seen', reason: 'too small', when: { part: 'bolt_*' }, do: { do: 'drop' } },
  ]),
];

function house(title: string, rules: { name: string; reason: string; when: object; do: object }[]): Rulebook {
  return {
    rulebook: 1,
    title,
    // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
    rules: rules.map(({ do: action, ...rule }) => ({ ...rule, then: [action] })),
  } as Rulebook;
}

/**
 * A library of the quay for work in bulk: crates whose roughness is tagged as colour, fenders that look for
 * their images on another machine, flags whose materials have an ending too many, lamps with bolts that
 * nobody sees, barrels that are right, coils with two images of one name. `pick` takes some: by family and
 * number from 0.
 */
export async function quayLibrary(
  pick: (family: Family, number: number) => boolean = () => true,
): Promise<Library> {
  const library: Library = { files: {}, truth: [] };
  for (const [family, count] of Object.entries(FAMILIES) as [Family, number][])
    for (let number = 0; number < count; number += 1)
      if (pick(family, number)) await MAKERS[family](library, place(family, number), number);
  return library;
}

interface Place {
  family: Family;
  /** `crate_017`. */
  name: string;
  folder: string;
}

function place(family: Family, number: number): Place {
  const name = `${family}_${String(number).padStart(3, '0')}`;
  return { family, name, folder: `library/${family}s/${name}/` };
}

const MAKERS: Record<Family, (library: Library, at: Place, number: number) => Promise<void>> = {
  async crate(library, at, number) {
    await addUsd(library, at, { number, roughness: 'sRGB' });
    tell(library, at, 'usda', { rules: ['Data is no colour'] });
  },
  async fender(library, at, number) {
    await addUsd(library, at, {
      number,
      colourAt: `${ELSEWHERE}/fenders/${at.name}/${at.name}_basecolor.png`,
    });
    tell(library, at, 'usda', { rules: ['The library lies here now'] });
  },
  async flag(library, at, number) {
    await addObj(library, at, { number, material: `${at.name}_mtl` });
    tell(library, at, 'obj', { rules: ['Materials without their ending'] });
  },
  async lamp(library, at, number) {
    await addObj(library, at, { number, material: at.name, bolts: 2 });
    const isLost = number % LOST === LOST - 1;
    if (isLost) delete library.files[`${at.folder}${at.name}_basecolor.png`];
    tell(library, at, 'obj', { rules: ['Bolts are not seen'], asks: isLost ? ['link.missing'] : [] });
  },
  async barrel(library, at, number) {
    await addUsd(library, at, { number });
    tell(library, at, 'usda', {});
  },
  async coil(library, at, number) {
    await addUsd(library, at, { number });
    const colour = `${at.folder}${at.name}_basecolor.png`;
    library.files[`${at.folder}wet/${at.name}_basecolor.png`] = await colourImage(number, 0.55);
    library.files[`${at.folder}dry/${at.name}_basecolor.png`] = library.files[colour];
    delete library.files[colour];
    tell(library, at, 'usda', { asks: ['link.ambiguous'] });
  },
};

function tell(
  { truth }: Library,
  { family, name, folder }: Place,
  type: string,
  { rules = [], asks = [] }: Partial<Pick<LibraryTruth, 'rules' | 'asks'>>,
): void {
  truth.push({ family, model: `${folder}${name}.${type}`, rules, asks });
}

interface UsdOptions {
  number: number;
  /** The tag of the roughness. */
  roughness?: string;
  /** Where the model looks for its colour. */
  colourAt?: string;
}

async function addUsd(
  { files }: Library,
  { name, folder }: Place,
  { number, roughness = 'raw', colourAt = `./${name}_basecolor.png` }: UsdOptions,
): Promise<void> {
  const material: UsdMaterialSpec = {
    name: 'Skin',
    textures: [
      { input: 'diffuseColor', path: colourAt, output: 'rgb', space: 'sRGB' },
      { input: 'roughness', path: `./${name}_roughness.png`, output: 'r', space: roughness },
    ],
    values: ['float inputs:metallic = 0'],
  };
  files[`${folder}${name}.usda`] = writeUsdaFile(
    name,
    [{ name: 'Body', mesh: bodyOf(number), material: 'Skin' }],
    [material],
  );
  await addImages(files, `${folder}${name}`, number);
}

interface ObjOptions {
  number: number;
  material: string;
  bolts?: number;
}

async function addObj(
  { files }: Library,
  { name, folder }: Place,
  { number, material, bolts = 0 }: ObjOptions,
): Promise<void> {
  const parts: DemoPart[] = [{ name: 'body', material, mesh: bodyOf(number) }];
  for (let i = 0; i < bolts; i += 1)
    parts.push({
      name: `bolt_${i}`,
      material,
      mesh: box(`bolt_${i}`, [0.02, 0.02, 0.02], [0.1 * i, 0.5, 0.3]),
    });
  files[`${folder}${name}.obj`] = writeObjFile(parts, `${name}.mtl`, 'Harrow Quay library');
  const lines = [
    `newmtl ${material}`,
    'Kd 1 1 1',
    `map_Kd ${name}_basecolor.png`,
    `map_Pr ${name}_roughness.png`,
    'Pm 0',
  ];
  files[`${folder}${name}.mtl`] = new TextEncoder().encode(`${lines.join('\n')}\n`);
  await addImages(files, `${folder}${name}`, number);
}

/** A block of its own size. */
function bodyOf(number: number) {
  return box('Body', [0.4 + 0.01 * (number % 7), 0.5 + 0.01 * (number % 11), 0.45]);
}

async function addImages(files: Library['files'], stem: string, number: number): Promise<void> {
  files[`${stem}_basecolor.png`] = await colourImage(number, 1);
  const noise = createNoise(9000 + number);
  files[`${stem}_roughness.png`] = await toPng(
    planeOf((u, v) => 0.55 + 0.3 * fractal(noise, u, v, 8, 8, 3)),
    1,
  );
}

async function colourImage(number: number, light: number): Promise<Uint8Array> {
  const noise = createNoise(100 + number);
  const hues = [0.3 + 0.05 * (number % 8), 0.55 - 0.04 * (number % 5), 0.25 + 0.06 * (number % 4)];
  const out = new Float32Array(SIDE * SIDE * 3);
  for (let i = 0; i < SIDE * SIDE; i += 1) {
    const grain = fractal(noise, (i % SIDE) / SIDE, Math.floor(i / SIDE) / SIDE, 6, 6, 3) * 0.18;
    for (let k = 0; k < 3; k += 1) out[i * 3 + k] = Math.min(1, Math.max(0, (hues[k] + grain) * light));
  }
  return toPng(out, 3);
}

function planeOf(of: (u: number, v: number) => number): Float32Array {
  return Float32Array.from({ length: SIDE * SIDE }, (_, i) =>
    Math.min(1, Math.max(0, of((i % SIDE) / SIDE, Math.floor(i / SIDE) / SIDE))),
  );
}
