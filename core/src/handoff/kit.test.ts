import { beforeAll, describe, expect, it } from 'vitest';
import { KIT_GROUPS, KIT_MATERIALS, kitOf } from '../../../demo/src/bollardKit.ts';
import { fendersOf } from '../../../demo/src/cargoFenders.ts';
import { pilotBoat } from '../../../demo/src/pilotBoat.ts';
import { ropeNet } from '../../../demo/src/ropeNet.ts';
import { collectFacts } from '../asset/collectFacts.ts';
import { compareReadings } from '../compare/compareReadings.ts';
import { baseColourVerdict } from '../compare/verdict.ts';
import { DESTINATIONS, findDestination } from '../destinations/destinations.ts';
import { type Destination, formatOf, outputMap, scalar } from '../destinations/profile.ts';
import type { HandoffChoices } from '../destinations/resolveChoices.ts';
import { parseBinaryFbx } from '../formats/fbx/parseBinary.ts';
import type { FbxNode } from '../formats/fbx/tree.ts';
import { decodeImage } from '../images/decode.ts';
import { listModels, type Mended, mendAsset, type OpenAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { smallParcel } from '../test/harbour.ts';
import { bakeImage } from './bake/bake.ts';
import { type HandoffResult, handOff } from './handoff.ts';
import { planHandoff } from './plan/plan.ts';
import { previewHandoff } from './previewHandoff.ts';
import { checkPixels } from './readBack/checkPixels.ts';
import { openPackage, packagePairs, packageReading } from './readBack/openPackage.ts';
import type { Sheet } from './write/sheet.ts';

let kit: OpenAsset;
/** Two lamps of the kit, ten parts of five materials, for what does not depend on number. */
let lamps: OpenAsset;
let boat: OpenAsset;
let net: OpenAsset;
let fenders: OpenAsset[];
beforeAll(async () => {
  const open = async (files: Record<string, Uint8Array>, name: string, model?: string) => {
    const source = memorySource(name, files);
    return openAsset(source, model ?? listModels(source)[0]);
  };
  kit = await open((await smallParcel(() => kitOf(32), 32)).files, 'kit');
  lamps = await open((await smallParcel(() => kitOf(32, ['lamps']), 32)).files, 'lamps');
  boat = await open((await smallParcel(pilotBoat, 32)).files, 'boat');
  net = await open((await smallParcel(ropeNet, 64)).files, 'net');
  const parcel = await fendersOf([39]);
  const source = memorySource('fenders', parcel.files);
  fenders = [await openAsset(source, listModels(source)[0])];
});

const byId = (id: string) => findDestination(id) as Destination;

const existing = new Map<OpenAsset, Mended>();

/** An asset with every mend applied, by its pixels too; worked out once. */
async function mended(asset: OpenAsset): Promise<Mended> {
  const made =
    existing.get(asset) ??
    mendAsset(asset.source, asset.images, 'all', await collectFacts(asset.images, asset.read));
  existing.set(asset, made);
  return made;
}

async function make(
  asset: OpenAsset,
  destination: Destination,
  choices: HandoffChoices = {},
): Promise<HandoffResult> {
  const { edits, state, findings } = await mended(asset);
  const { document, source, images, read } = asset;
  return handOff({ document, source, state, edits, findings, images, destination, choices, read });
}

/**
 * Variants in formats and layouts that no destination before this one has; glTF beside its maps is a layout.
 */
function newLayouts(destination: Destination): string[] {
  const layout = (variant: string) => (variant === 'gltf' ? variant : formatOf(variant));
  const before = DESTINATIONS.slice(0, DESTINATIONS.indexOf(destination)).flatMap(({ variants }) =>
    variants.map(layout),
  );
  return destination.variants.filter(
    (variant, i, all) =>
      !before.includes(layout(variant)) && all.findIndex((other) => layout(other) === layout(variant)) === i,
  );
}

const failed = ({ receipt }: HandoffResult) =>
  receipt.readBack.checks
    .filter(({ ok }) => !ok)
    .map(({ check, expected, found }) => `${check}: ${expected} | ${found}`);
const paths = ({ files }: HandoffResult) =>
  [...files.keys()].filter((path) => !/^(README\.html|handoff\.json|receipt\.json)$/.test(path)).sort();
const reread = async (result: HandoffResult, model: string) =>
  readModel(model, memorySource('package', Object.fromEntries(result.files)));

describe('every destination', () => {
  for (const destination of DESTINATIONS) {
    it(`${destination.id} takes the boat's tiles and a fender, lamps of the kit where its format is new, and its plan told every file`, async () => {
      for (const asset of [boat, lamps, ...fenders]) {
        for (const variant of asset === lamps ? newLayouts(destination) : destination.variants.slice(0, 1)) {
          const result = await make(asset, destination, { variant });
          expect(failed(result), `${asset.source.name} for ${destination.id}, ${variant}`).toEqual([]);
          const { state } = await mended(asset);
          const plan = await previewHandoff({ ...asset, state, destination, choices: { variant } });
          const reported = plan.files.map(({ path }) => path).filter((path) => !path.endsWith('(inside)'));
          expect([...reported].sort(), `${asset.source.name} for ${destination.id}, ${variant}`).toEqual(
            [...result.files.keys()].sort(),
          );
        }
      }
    });
  }
});

describe('several files', () => {
  const split = (how: Destination['split'], more: Partial<Destination> = {}): Destination => ({
    ...byId('engine-packed'),
    id: 'split',
    split: how,
    ...more,
  });

  it('one per group holds that group, and its materials alone', async () => {
    const result = await make(kit, split('groups'));
    expect(failed(result)).toEqual([]);
    expect(paths(result).filter((path) => path.endsWith('.fbx'))).toEqual(
      KIT_GROUPS.map((group) => `kit_${group}.fbx`).sort(),
    );
    const lamps = await reread(result, 'kit_lamps.fbx');
    expect(lamps.materials.map(({ name }) => name).sort()).toEqual([
      'Brass',
      'CastIron',
      'Granite',
      'GreenPaint',
      'Opal',
    ]);
    expect(lamps.nodes.filter(({ mesh }) => mesh >= 0)).toHaveLength(10);
    const checks = result.receipt.readBack.checks.map(({ check }) => check);
    expect(checks.filter((check) => check === 'bounds')).toHaveLength(1);
    // Fourteen base colours and roughnesses, thirteen normals.
    expect(paths(result).filter((path) => path.startsWith('maps/'))).toHaveLength(41);
  });

  it('one per material and one per node', async () => {
    const byMaterial = await make(kit, split('materials'));
    expect(failed(byMaterial)).toEqual([]);
    expect(paths(byMaterial).filter((path) => path.endsWith('.fbx'))).toEqual(
      KIT_MATERIALS.map((name) => `kit_${name}.fbx`).sort(),
    );
    const byNode = await make(boat, split('nodes', { format: 'gltf', variants: ['glb'], ...gltfSides }));
    expect(failed(byNode)).toEqual([]);
    expect(paths(byNode).filter((path) => path.endsWith('.glb'))).toHaveLength(
      boat.document.nodes.filter(({ mesh }) => mesh >= 0).length,
    );
  });

  it('that hold normals against the rule of their format are found, whatever the sheet says of them', async () => {
    const turned = await make(
      lamps,
      split('one', { format: 'gltf', variants: ['glb'], ...gltfSides, normalY: 'Y-' }),
    );
    const wrong = turned.receipt.readBack.checks.filter(({ ok }) => !ok);
    expect(wrong.map(({ check }) => check)).toEqual([
      'the model as it stands',
      'with the words of the sheet',
    ]);
    for (const { found } of wrong)
      expect(found).toMatch(/CastIron: normal differs by up to 0\.\d+; \d\d\.\d% of it is beyond 0\.0063/);
    expect(turned.receipt.verdict).toBe('failed');
  });

  const gltfSides: Partial<Destination> = {
    upAxis: 'Y',
    metresPerUnit: 1,
    normalY: 'Y+',
    triangulate: true,
    maps: byId('web-gltf').maps,
    names: { file: '{asset}-{part}', material: '{material}', map: '{material}_{suffix}' },
  };
});

describe('geometry', () => {
  it('is scaled to a chosen size, and cut so that every part has one material', async () => {
    const result = await make(lamps, byId('compositor-classic'), { size: 0.5 });
    expect(failed(result)).toEqual([]);
    const { bounds } = result.receipt.readBack;
    expect(Math.max(...(bounds?.max.map((value, i) => value - (bounds.min[i] ?? 0)) ?? []))).toBeCloseTo(
      0.5,
      6,
    );
    const found = await reread(result, 'kit.fbx');
    for (const { mesh, materials } of found.nodes) if (mesh >= 0) expect(materials.length).toBe(1);
    await expect(make(lamps, byId('modelling'), { size: 2 })).rejects.toMatchObject({
      code: 'handoff.choice',
    });
  });

  it('takes the unit that is chosen', async () => {
    const result = await make(lamps, byId('garment-figure'), { metresPerUnit: 0.0254 });
    expect(failed(result)).toEqual([]);
    expect((await reread(result, 'kit.fbx')).metresPerUnit).toBeCloseTo(0.0254, 9);
  });

  it('gets shapes for collision that have no material', async () => {
    for (const shape of ['box', 'hull', 'mesh'] as const) {
      const result = await make(lamps, {
        ...byId('engine-packed'),
        collision: { shape, name: 'SHAPE_{part}' },
      });
      expect(failed(result), shape).toEqual([]);
      const { nodes } = await reread(result, 'kit.fbx');
      const shapes = nodes.filter(({ name }) => name.startsWith('SHAPE_'));
      expect(shapes).toHaveLength(10);
      expect(shapes.every(({ materials, parent }) => materials.length === 0 && nodes[parent].mesh >= 0)).toBe(
        true,
      );
    }
  });

  it('lists what is built of what: solids with materials of their own, areas and volumes', async () => {
    const result = await make(kit, byId('building-parts'));
    const rows = new TextDecoder()
      .decode(result.files.get('takeoff.csv'))
      .split('\r\n')
      .map((line) => line.split(','));
    expect(rows[0]).toEqual(['part', 'material', 'faces', 'area m2', 'volume m3']);
    // A leg of 6 x 42 x 40 centimetres.
    const leg = rows.find(([part]) => part === 'bench_1_leg_left');
    expect(leg?.slice(1, 3)).toEqual(['CastIron', '6']);
    expect(Number(leg?.[3])).toBeCloseTo(2 * (0.06 * 0.42 + 0.06 * 0.4 + 0.42 * 0.4), 5);
    expect(Number(leg?.[4])).toBeCloseTo(0.06 * 0.42 * 0.4, 6);
    const slate = rows.filter(([, material]) => material === 'Slate');
    expect(slate.map(([part]) => part)).toEqual(['bollard_2_plinth', 'bollard_4_plinth', 'all parts']);
    expect(Number(slate[2][4])).toBeCloseTo(2 * 0.5 * 0.12 * 0.5, 6);
    const sheet = JSON.parse(new TextDecoder().decode(result.files.get('handoff.json'))) as Sheet;
    expect(sheet.materials.find(({ key }) => key === 'Slate')?.copies).toEqual([
      'bollard_2_plinth_Slate',
      'bollard_4_plinth_Slate',
    ]);
  });
});

describe('a source in the same format', () => {
  const objectsOf = (bytes: Uint8Array) =>
    parseBinaryFbx(bytes, 'kit.fbx').nodes.find(({ name }) => name === 'Objects')?.children ?? [];

  it('is changed itself: edited values and paths, and not a record besides', async () => {
    const { document, source, images, read } = kit;
    const edits = [
      {
        kind: 'setValues' as const,
        slots: [{ material: 'Pine', channel: 'baseColor' as const }],
        value: [1, 1, 1] as [number, number, number],
        origin: { from: 'hand' as const, detail: '' },
      },
    ];
    const { state } = mendAsset(source, images, 'none', { before: edits });
    const result = await handOff({
      document,
      source,
      state,
      edits,
      findings: [],
      images,
      destination: byId('modelling'),
      read,
    });
    expect(failed(result)).toEqual([]);
    expect(result.receipt.prepared.join()).toContain('The source file itself');
    const [before, after] = [
      objectsOf(await read(source.model)),
      objectsOf(result.files.get('kit.fbx') as Uint8Array),
    ];
    const json = (node: FbxNode) =>
      JSON.stringify(node, (_, value) => {
        if (typeof value === 'bigint') return String(value);
        return ArrayBuffer.isView(value) ? [...(value as Float64Array)] : value;
      });
    const changed = after.filter((node, i) => json(node) !== json(before[i]));
    expect(after).toHaveLength(before.length);
    // Its images lie where they lay, so the one material is all.
    expect(changed.map(({ name }) => name)).toEqual(['Material']);
    // Images go along byte for byte.
    const image = source.images[0].resolved as string;
    expect(result.files.get(`maps/${image.slice(image.lastIndexOf('/') + 1)}`)).toEqual(await read(image));
  });

  it('is written anew where an edit cannot be said in it, and tells why', async () => {
    const result = await make(kit, byId('modelling'));
    expect(result.receipt.prepared.join('\n')).toMatch(/Written anew, since CastIron/);
  });
});

describe('images', () => {
  it('lie inside the model where that is wanted', async () => {
    const result = await make(lamps, { ...byId('engine-packed'), embed: true });
    expect(failed(result)).toEqual([]);
    expect(paths(result)).toEqual(['kit.fbx']);
    const found = await reread(result, 'kit.fbx');
    expect(found.images.every(({ embedded }) => embedded !== null)).toBe(true);
  });

  it('lie in a folder per material, under names by template', async () => {
    const result = await make(lamps, {
      ...byId('engine-packed'),
      folder: 'tex/maps',
      folderPerMaterial: true,
      names: { file: 'SET_{asset}_{part}', material: 'M_{material}', map: '{asset}_{material}-{suffix}' },
    });
    expect(failed(result)).toEqual([]);
    expect(paths(result)).toEqual(
      expect.arrayContaining(['SET_kit.fbx', 'tex/maps/M_Brass/kit_Brass-ORM.png']),
    );
    expect((await reread(result, 'SET_kit.fbx')).materials.map(({ name }) => name)).toContain('M_Brass');
  });

  it('are brought to powers of two and a largest side; normals stay vectors, and nets keep what is there', async () => {
    const small: Destination = { ...byId('engine-packed'), maxSize: 24, powerOfTwo: true };
    expect(failed(await make(lamps, small))).toEqual([]);
    for (const asset of [lamps, net]) {
      const { state } = await mended(asset);
      const plan = planHandoff(state, asset.images, small);
      for (const image of plan.images) {
        const bytes = await bakeImage(image, asset.read);
        expect(await checkPixels(image, bytes, asset.read)).toMatchObject({ ok: true });
        const { width, height, data, components } = await decodeImage(bytes, image.file);
        expect([width, height]).toEqual([16, 16]);
        if (image.map.suffix !== 'N') continue;
        let worst = 0;
        for (let i = 0; i < data.length; i += components)
          worst = Math.max(
            worst,
            Math.abs(Math.hypot(data[i] / 127.5 - 1, data[i + 1] / 127.5 - 1, data[i + 2] / 127.5 - 1) - 1),
          );
        expect(worst, image.file).toBeLessThan(0.02);
      }
    }
  });

  it('hold opacity as transparency where that is wanted', async () => {
    const glass: Destination = {
      ...byId('engine-packed'),
      maps: [
        ...byId('engine-packed').maps.map((map) => ({ ...map, alpha: null })),
        outputMap('transparency', 'T', [scalar('opacity', { invert: true })]),
      ],
    };
    const [plain, turned] = [
      await make(net, byId('compositor-classic'), { size: 0 }),
      await make(net, glass),
    ];
    expect(failed(turned)).toEqual([]);
    const name = paths(turned).find((path) => path.endsWith('_T.png')) as string;
    const own = paths(plain).find((path) => path.endsWith('_opacity.png')) as string;
    const [a, b] = [
      await decodeImage(turned.files.get(name) as Uint8Array, name),
      await decodeImage(plain.files.get(own) as Uint8Array, own),
    ];
    for (let i = 0; i < a.data.length; i += 97) expect(a.data[i]).toBe(255 - b.data[i]);
  });

  it('are missed when one tile is lost', async () => {
    const result = await make(boat, byId('render-film'));
    const tiles = paths(result).filter((path) => /\.10\d\d\./.test(path));
    expect(tiles.length).toBeGreaterThan(3);
    const { state } = await mended(boat);
    const lost = { ...Object.fromEntries(result.files) };
    delete lost[tiles[1]];
    const plan = planHandoff(state, boat.images, byId('render-film'));
    const checks = await Promise.all(
      plan.images.map((image) => checkPixels(image, lost[`${image.folder}/${image.file}`], boat.read)),
    );
    expect(checks.filter(({ ok }) => !ok).map(({ check }) => check)).toEqual([
      `pixels of ${tiles[1].replace('maps/', '')}`,
    ]);
  });
});

describe('a package', () => {
  it('is read as its receiver reads it, and its base colour is the source within rounding', async () => {
    const { state } = await mended(lamps);
    const source = {
      materials: state.materials,
      images: state.images,
      metresPerUnit: lamps.source.metresPerUnit,
      read: lamps.read,
    };
    for (const id of ['engine-packed', 'render-film', 'web-gltf']) {
      const { files } = await make(lamps, byId(id));
      const made = await openPackage(memorySource('package', Object.fromEntries(files)));
      const differences = await compareReadings(source, packageReading(made), packagePairs(made.sheet), {
        grid: 16,
      });
      expect(baseColourVerdict(differences), id).toMatchObject({ equal: true, compared: 5 });
      for (const { material, channels } of differences)
        for (const { channel, largest } of channels)
          if (channel !== 'specular' && channel !== 'specularColor')
            expect(largest, `${id} ${material} ${channel}`).toBeLessThan(2.1 / 255);
    }
    await expect(openPackage(memorySource('empty', {}))).rejects.toMatchObject({ code: 'package.sheet' });
  });

  it('names everything in MaterialX too, and every name leads somewhere', async () => {
    const { files } = await make(kit, byId('render-film'));
    const text = new TextDecoder().decode(files.get('kit.mtlx'));
    const named = [...text.matchAll(/<(\w+) name="([^"]+)"/g)]
      .filter(([, kind]) => kind !== 'input')
      .map(([, , name]) => name);
    expect(new Set(named).size).toBe(named.length);
    for (const [, name] of text.matchAll(/nodename="([^"]+)"/g)) expect(named).toContain(name);
    for (const [, path] of text.matchAll(/type="filename" value="([^"]+)"/g))
      expect([...files.keys()]).toContain(path);
    expect(text.match(/<surfacematerial /g)).toHaveLength(14);
    expect(text).toContain('value="maps/Oak_basecolor.exr" colorspace="acescg"');
    // Tags open and close in pairs.
    const open: string[] = [];
    for (const [, close, name, self] of text.replace(/<\?.*\?>/, '').matchAll(/<(\/?)(\w+)[^>]*?(\/?)>/g)) {
      if (close) expect(open.pop()).toBe(name);
      else if (!self) open.push(name);
    }
    expect(open).toEqual([]);
  });
});
