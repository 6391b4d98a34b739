import Color from 'colorjs.io';
import { beforeAll, describe, expect, it } from 'vitest';
import { channelBuoy } from '../../../demo/src/channelBuoy.ts';
import { mooringStair } from '../../../demo/src/mooringStair.ts';
import { oilskinCoat } from '../../../demo/src/oilskinCoat.ts';
import { ropeNet } from '../../../demo/src/ropeNet.ts';
import { signalFlags } from '../../../demo/src/signalFlags.ts';
import { stormLantern } from '../../../demo/src/stormLantern.ts';
import type { Edit } from '../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../destinations/destinations.ts';
import { type Destination, parseProfile } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { writeModel } from '../formats/writeModel.ts';
import { decodeImage } from '../images/decode.ts';
import { listModels, type Mended, mendAsset, type OpenAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import type { SceneDocument } from '../scene/document.ts';
import { reorient } from '../scene/reorient.ts';
import { smallParcel } from '../test/harbour.ts';
import { decodeOutside, put } from '../test/tools.ts';
import { bakeImage } from './bake/bake.ts';
import { type HandoffResult, handOff } from './handoff.ts';
import { type HandoffPlan, planHandoff } from './plan/plan.ts';
import type { PlannedImage } from './plan/planImage.ts';
import { checkPixels } from './readBack/checkPixels.ts';
import { readBackModel } from './readBack/readBackModel.ts';
import { differenceOf, isSame } from './tell/differences.ts';
import { verifyPackage } from './verify.ts';
import { destinationDocument } from './write/destinationDocument.ts';

type Bend = (made: {
  plan: HandoffPlan;
  baked: Map<string, Uint8Array>;
  files: Map<string, Uint8Array>;
  wanted: SceneDocument;
  model: string;
}) => Promise<void> | void;

let assets: OpenAsset[];
beforeAll(async () => {
  assets = [];
  for (const make of [stormLantern, channelBuoy, ropeNet, oilskinCoat, signalFlags]) {
    const parcel = await smallParcel(make, 48);
    const source = memorySource(parcel.id, parcel.files);
    assets.push(await openAsset(source, listModels(source)[0]));
  }
});

const byId = (id: string) => findDestination(id) as Destination;

const existing = new Map<OpenAsset, Mended>();

/** An asset with every mend applied, worked out once. */
function mended(asset: OpenAsset): Mended {
  const made = existing.get(asset) ?? mendAsset(asset.source, asset.images, 'all');
  existing.set(asset, made);
  return made;
}

function make(asset: OpenAsset, destination: Destination): Promise<HandoffResult> {
  const { document, source, images, read } = asset;
  const { edits, state, findings } = mended(asset);
  return handOff({
    document,
    source,
    state,
    edits,
    findings,
    images,
    destination,
    choices: { variant: destination.variants[0] },
    read,
  });
}

const packages = new Map<string, Promise<HandoffResult>>();

/** The package of an asset for a destination, made once; nobody changes it. */
function made(asset: OpenAsset, id: string): Promise<HandoffResult> {
  const key = `${asset.source.name} ${id}`;
  const result = packages.get(key) ?? make(asset, byId(id));
  packages.set(key, result);
  return result;
}

const failed = ({ receipt }: HandoffResult) =>
  receipt.readBack.checks
    .filter(({ ok }) => !ok)
    .map(({ check, expected, found }) => `${check}: ${expected} | ${found}`);

describe('destinations', () => {
  it('are valid profiles, and survive JSON', () => {
    for (const destination of DESTINATIONS)
      expect(parseProfile(JSON.parse(JSON.stringify(destination)))).toEqual(destination);
    expect(() => parseProfile({ ...DESTINATIONS[0], upAxis: 'W' })).toThrow(/upAxis/);
    expect(() => parseProfile({ ...DESTINATIONS[0], variants: ['fbx'] })).toThrow(/no variant fbx/);
    const [first, ...rest] = DESTINATIONS[0].maps;
    expect(() => parseProfile({ ...DESTINATIONS[0], maps: [{ ...first, depth: 'half' }, ...rest] })).toThrow(
      /holds no half/,
    );
  });

  // Two of the five assets each, in turn, so that each asset goes to four destinations; the grid of looks has
  // the rest.
  for (const [i, destination] of DESTINATIONS.entries()) {
    it(`${destination.id} takes what is given to it, and reading it back shows what was meant`, async () => {
      for (const asset of [0, 3].map((step) => assets[(i + step) % assets.length])) {
        const result = await made(asset, destination.id);
        expect(failed(result), `${asset.source.name} for ${destination.id}`).toEqual([]);
        expect(result.receipt.outputs.map(({ path }) => path)).toContain('README.html');
      }
    });
  }

  it('take what has faults as it is, and their receipts hold', async () => {
    const { id, files } = await smallParcel(mooringStair, 48);
    const source = memorySource(id, files);
    const broken = await Promise.all(listModels(source).map((model) => openAsset(source, model)));
    const failing: string[] = [];
    for (const asset of broken)
      for (const destination of DESTINATIONS) {
        const { edits, state, findings } = mendAsset(asset.source, asset.images, 'none');
        const { document, images, read } = asset;
        const result = await handOff({
          document,
          source: asset.source,
          state,
          edits,
          findings,
          images,
          destination,
          read,
        });
        if (failed(result).length > 0)
          failing.push(`${asset.source.model} for ${destination.id}: ${failed(result).join('; ')}`);
      }
    expect(failing).toEqual([]);
  });

  it('pack as oiiotool sees it: occlusion, roughness and metalness of the lantern for the engine', async () => {
    const { files } = await made(assets[0], 'engine-packed');
    const packed = decodeOutside(put('orm.png', files.get('maps/T_Brass_ORM.png') as Uint8Array), '0,1,2');
    const source = async (name: string) =>
      decodeOutside(
        put('source.png', await assets[0].read(`storm-lantern/textures/lantern_brass_${name}.png`)),
        '0,0,0',
      );
    const [occlusion, gloss, metal] = [
      await source('ao'),
      await source('glossiness'),
      await source('metalness'),
    ];
    for (let i = 0; i < packed.length; i += 3)
      expect([packed[i], packed[i + 1], packed[i + 2]]).toEqual([occlusion[i], 255 - gloss[i], metal[i]]);
    const normal = decodeOutside(put('n.png', files.get('maps/T_Brass_N.png') as Uint8Array), '0,1,2');
    const original = decodeOutside(
      put('source.png', await assets[0].read('storm-lantern/textures/lantern_brass_normal.png')),
      '0,1,2',
    );
    // Y- turns green.
    for (let i = 0; i < normal.length; i += 3)
      expect([normal[i], normal[i + 1]]).toEqual([original[i], 255 - original[i + 1]]);
  });

  it('bring colour to ACEScg as half floats for film', async () => {
    const { files } = await made(assets[0], 'render-film');
    const { data, components } = await decodeImage(
      files.get('maps/Brass_basecolor.exr') as Uint8Array,
      'a.exr',
    );
    const source = await decodeImage(
      await assets[0].read('storm-lantern/textures/lantern_brass_basecolor.png'),
      'b.png',
    );
    for (let i = 0; i < 300; i += 3) {
      const [r, g, b] = [0, 1, 2].map(
        (k) =>
          new Color('srgb', [source.data[(i / 3) * source.components + k] / 255, 0, 0]).to('srgb-linear')
            .coords[0] ?? 0,
      );
      // Rec.709 to AP1 by Bradford's adaptation from D65 to D60.
      const index = (i / 3) * components;
      expect(Math.abs(data[index] - (0.613097 * r + 0.339523 * g + 0.047379 * b))).toBeLessThan(1e-3);
      expect(Math.abs(data[index + 2] - (0.020616 * r + 0.10957 * g + 0.869815 * b))).toBeLessThan(1e-3);
    }
  });

  it('convert to spec/gloss on the way, and say so', async () => {
    const { receipt, files } = await made(assets[0], 'render-specgloss');
    expect(receipt.prepared.join()).toContain('To spec/gloss');
    const specular = await decodeImage(files.get('maps/Brass_specular.tif') as Uint8Array, 'a.tif');
    expect(specular.data).toBeInstanceOf(Uint16Array);
  });

  it('give the same bytes for the same input', async () => {
    for (const id of ['engine-packed', 'compositor-usd', 'building-parts']) {
      const [a, b] = [await made(assets[0], id), await make(assets[0], byId(id))];
      expect([...a.files.keys()]).toEqual([...b.files.keys()]);
      for (const [path, bytes] of a.files)
        expect(Buffer.compare(bytes, b.files.get(path) as Uint8Array), `${id} ${path}`).toBe(0);
    }
  });
});

describe('reading back', () => {
  const checks = async (id: string, bend: Bend) => {
    const [asset, destination] = [assets[0], byId(id)];
    const { state } = mended(asset);
    const plan = planHandoff(state, asset.images, destination);
    const baked = new Map<string, Uint8Array>();
    for (const image of plan.images) baked.set(image.file, await bakeImage(image, asset.read));
    const expected = destinationDocument(asset.document, plan);
    const model = `lantern.${destination.variants[0]}`;
    const files = writeModel(expected, model, {
      targetOf: ({ written }) => ({ path: written, embed: null }),
    }).files;
    for (const [file, bytes] of baked) files.set(`maps/${file}`, bytes);
    await bend({ plan, baked, files, wanted: expected, model });
    const { checks: all } = readBackModel(
      { files, model, source: asset.document, wanted: expected, plan },
      await readModel(model, memorySource('package', Object.fromEntries(files))),
    );
    for (const image of plan.images) all.push(await checkPixels(image, baked.get(image.file), asset.read));
    return all.filter(({ ok }) => !ok).map(({ check }) => check);
  };

  it('is content with what was not touched', async () => {
    expect(await checks('modelling', () => {})).toEqual([]);
  });

  it('finds swapped components', async () => {
    const swap: Bend = async ({ plan, baked }) => {
      const orm = plan.images.find(({ map }) => map.suffix === 'ORM') as PlannedImage;
      const [r, g, b] = orm.components;
      baked.set(orm.file, await bakeImage({ ...orm, components: [r, b, g] }, assets[0].read));
    };
    expect(await checks('engine-packed', swap)).toEqual(['pixels of T_Brass_ORM.png']);
  });

  it('finds a normal map that points the other way', async () => {
    const turn: Bend = async ({ plan, baked }) => {
      const normal = plan.images.find(({ map }) => map.suffix === 'N') as PlannedImage;
      const components = normal.components.map((one) =>
        one.from === 'image' ? { ...one, flip: !one.flip } : one,
      );
      baked.set(normal.file, await bakeImage({ ...normal, components, copyOf: null }, assets[0].read));
    };
    expect(await checks('engine-packed', turn)).toContain('pixels of T_Brass_N.png');
  });

  it('finds a wrong scale', async () => {
    const shrink: Bend = ({ files, wanted: required, model }) => {
      const small = reorient(required, required.axes, required.metresPerUnit * 10);
      files.set(
        model,
        writeModel({ ...small, metresPerUnit: required.metresPerUnit }, model, {
          targetOf: ({ written }) => ({ path: written, embed: null }),
        }).files.get(model) as Uint8Array,
      );
    };
    expect(await checks('modelling', shrink)).toContain('bounds');
  });

  it('finds a path that leads outside, and a map that is not there', async () => {
    const outside: Bend = ({ files, wanted, model }) => {
      files.set(
        model,
        writeModel(wanted, model, {
          targetOf: ({ written }) => ({ path: `../../${written}`, embed: null }),
        }).files.get(model) as Uint8Array,
      );
    };
    expect(await checks('modelling', outside)).toContain('paths resolve inside the package');
    const lose: Bend = ({ plan, files, baked }) => {
      files.delete(`maps/${plan.images[0].file}`);
      baked.delete(plan.images[0].file);
    };
    expect(await checks('modelling', lose)).toEqual(
      expect.arrayContaining(['paths resolve inside the package', `pixels of ${'Brass_basecolor.png'}`]),
    );
  });

  it('finds a face that went to another material', async () => {
    const rebind: Bend = ({ files, wanted, model }) => {
      const nodes = wanted.nodes.map((node, i) =>
        node.mesh >= 0 && i < 3 ? { ...node, materials: [1] } : node,
      );
      files.set(
        model,
        writeModel({ ...wanted, nodes }, model, {
          targetOf: ({ written }) => ({ path: written, embed: null }),
        }).files.get(model) as Uint8Array,
      );
    };
    expect(await checks('modelling', rebind)).toContain('material of each face');
  });
});

describe('the difference from last time', () => {
  it('is none for the same, and names what an edit changed', async () => {
    const [asset, destination] = [assets[0], byId('engine-packed')];
    const { edits, state, findings } = mended(asset);
    const tint: Edit = {
      kind: 'setValues',
      slots: [{ material: 'Iron', channel: 'roughness' }],
      value: 0.9,
      origin: { from: 'hand', detail: '' },
    };
    const inputs = {
      document: asset.document,
      source: asset.source,
      state,
      edits,
      findings,
      images: asset.images,
      destination,
      choices: { variant: 'fbx' },
      read: asset.read,
    };
    const first = await handOff(inputs);
    expect(isSame(differenceOf(first.receipt, (await handOff(inputs)).receipt))).toBe(true);
    const second = await handOff({
      ...inputs,
      edits: [...edits, tint],
      state: replay(asset.source, [...edits, tint], asset.images).state,
    });
    const difference = differenceOf(first.receipt, second.receipt);
    expect(difference.edits).toEqual(['Set Iron, roughness to the value 0.900']);
    expect(difference.changed).toEqual(['README.html', 'handoff.json', 'lantern.fbx']);
    expect([...difference.added, ...difference.removed]).toEqual([]);
  });
});

describe('verifying', () => {
  it('finds a single changed byte, a lost file and one too many', async () => {
    const { files } = await made(assets[0], 'engine-packed');
    const verify = (change: (files: Record<string, Uint8Array>) => void) => {
      const copy = Object.fromEntries([...files].map(([path, bytes]) => [path, bytes.slice()]));
      change(copy);
      return verifyPackage(memorySource('package', copy));
    };
    expect((await verify(() => {})).faults).toEqual([]);
    const changed = await verify((copy) => {
      copy['maps/T_Brass_ORM.png'][700] ^= 1;
    });
    expect(changed.faults).toMatchObject([{ path: 'maps/T_Brass_ORM.png', fault: 'changed' }]);
    const moved = await verify((copy) => {
      delete copy['README.html'];
      copy['note.txt'] = new Uint8Array(1);
    });
    expect(moved.faults.map(({ path, fault }) => `${path} ${fault}`)).toEqual([
      'note.txt added',
      'README.html missing',
    ]);
    await expect(verifyPackage(memorySource('empty', { 'a.txt': new Uint8Array(1) }))).rejects.toMatchObject({
      code: 'receipt.missing',
    });
    await expect(
      verifyPackage(memorySource('broken', { 'receipt.json': new TextEncoder().encode('{') })),
    ).rejects.toMatchObject({ code: 'receipt.broken' });
  });
});
