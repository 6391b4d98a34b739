import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { handOff } from '../handoff.ts';
import { createReceipt } from '../tell/receipt.ts';
import { withoutUnusedDefaults } from './unusedMaterials.ts';

const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
const encode = (text: string) => new TextEncoder().encode(text);

async function crate(materials: string) {
  const files = {
    'crate.obj': encode(`mtllib crate.mtl\no Crate\n${SQUARE}usemtl Wood\nf 1/1 2/2 3/3 4/4\n`),
    'crate.mtl': encode(materials),
  };
  return openAsset(memorySource('crate', files), 'crate.obj');
}

async function handed(destination: Destination) {
  const asset = await crate(
    'newmtl DefaultMaterial\nKd 0.5 0.5 0.5\nnewmtl Wood\nKd 0.4 0.2 0.1\nnewmtl Rope\nKd 0.7 0.6 0.4\n',
  );
  const { document, source, images, read } = asset;
  return handOff({
    document,
    source,
    state: initialState(source),
    edits: [],
    findings: [],
    images,
    destination,
    read,
    threads: 1,
  });
}

describe('materials that no face uses', () => {
  it("stay where others were merged into them, a program's own too", async () => {
    const { source } = await crate('newmtl DefaultMaterial\nKd 0.5 0.5 0.5\nnewmtl Wood\nKd 0.4 0.2 0.1\n');
    const [standard] = source.materials;
    expect(standard.name).toBe('DefaultMaterial');
    const merged = { ...initialState(source), materials: [standard], merged: { Wood: standard.key } };
    expect(withoutUnusedDefaults(source, merged).materials).toEqual([standard]);
    const both = { ...merged, materials: source.materials, merged: {} };
    expect(withoutUnusedDefaults(source, both).materials.map(({ name }) => name)).toEqual(['Wood']);
  });

  it("are left out where they are a program's own, and kept where somebody named them", async () => {
    for (const destination of DESTINATIONS) {
      const { files, receipt } = await handed(destination);
      const model = [...files.keys()].find((path) => /\.(fbx|obj|glb|usdz|usdc)$/.test(path)) as string;
      const found = await readModel(model, memorySource('package', Object.fromEntries(files)));
      const names = found.materials.map(({ name }) => name.toLowerCase());
      expect([
        destination.id,
        names.some((name) => name.includes('default')),
        names.some((name) => name.includes('wood')),
      ]).toEqual([destination.id, false, true]);
      expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
      expect(receipt.verdict).not.toBe('failed');
    }
    const { files } = await handed(findDestination('web-gltf') as Destination);
    const found = await readModel('crate.glb', memorySource('package', Object.fromEntries(files)));
    expect(found.materials.map(({ name }) => name).sort()).toEqual(['Rope', 'Wood']);
  });

  it('stay where faces, bindings or images speak for them, and where there is nothing else', async () => {
    const { source } = await crate(
      'newmtl lambert1\nmap_Kd planks.png\nnewmtl Wood\nKd 0.4 0.2 0.1\nnewmtl material_2\n',
    );
    const state = initialState(source);
    const left = (more: Partial<typeof state>, faces = source.facesPerMaterial) =>
      withoutUnusedDefaults({ facesPerMaterial: faces }, { ...state, ...more }).materials.map(
        ({ key }) => key,
      );
    expect(left({})).toEqual(['lambert1', 'Wood']);
    expect(left({ bindings: { Crate: 'material_2' } })).toEqual(['lambert1', 'Wood', 'material_2']);
    expect(left({}, { material_2: 1 })).toEqual(['lambert1', 'Wood', 'material_2']);
    expect(left({ materials: state.materials.slice(2) }, {})).toEqual(['material_2']);
  });
});

describe('a package', () => {
  it('is clean though tangents are left to its receiver, and not clean for any other warning', async () => {
    const { receipt } = await handed(findDestination('web-gltf') as Destination);
    const asset = await crate('newmtl Wood\n');
    const hint = { code: 'MESH_PRIMITIVE_GENERATED_TANGENT_SPACE', message: '', pointer: '', severity: 1 };
    const verdict = (messages: { code: string; message: string; pointer: string; severity: number }[]) =>
      createReceipt({
        source: asset.source,
        state: initialState(asset.source),
        images: [],
        edits: [],
        plan: {
          destination: findDestination('web-gltf') as Destination,
          materials: [],
          images: [],
          losses: [],
          patched: false,
          prepared: [],
          unsaid: [],
        },
        variant: 'glb',
        inputs: [],
        files: new Map(),
        readBack: {
          ...receipt.readBack,
          checks: [],
          validator: { version: '', errors: 0, warnings: messages.length, infos: 0, messages } as never,
        },
        proof: { model: 'same', sheet: 'same', words: [], differences: [], channels: [] },
        findings: [],
      }).verdict;
    expect(verdict([])).toBe('clean');
    expect(verdict([hint, hint])).toBe('clean');
    expect(verdict([hint, { ...hint, code: 'IMAGE_NPOT_DIMENSIONS' }])).toBe('with remarks');
  });
});
