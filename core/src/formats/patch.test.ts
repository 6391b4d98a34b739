import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../parcel/fileSource.ts';
import { previewGlb } from '../preview/previewGlb.ts';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { createMapUse, createMaterial } from '../scene/material.ts';
import { parseBinaryFbx } from './fbx/parseBinary.ts';
import { patchFbx } from './fbx/patchFbx.ts';
import { readFbx } from './fbx/readFbx.ts';
import { numberEntry } from './fbx/records.ts';
import type { FbxNode } from './fbx/tree.ts';
import { writeBinaryFbx } from './fbx/writeBinary.ts';
import { writeFbx } from './fbx/writeFbx.ts';
import { patchGltf } from './gltf/patchGltf.ts';
import { patchMtl } from './obj/patchMtl.ts';
import { emptyPatch } from './patch.ts';
import { patchUsd } from './usd/patchUsd.ts';
import { readUsd } from './usd/readUsd.ts';
import { writeModel } from './writeModel.ts';

const MODELS = '/usr/share/assimp/models/FBX';

/** A crate with a plank colour map, and a lid without. */
function crate(): SceneDocument {
  const document = createDocument('fbx', 'made');
  const plank = createMaterial('Plank', 'legacy');
  document.images.push({ key: 'p', written: 'maps/plank.png', relative: 'maps/plank.png', embedded: null });
  plank.channels.baseColor = {
    value: [1, 0.5, 0.25],
    map: createMapUse('p', 'baseColor'),
    source: { from: 'file', detail: '' },
  };
  document.materials.push(plank, createMaterial('Lid', 'metalRough'));
  document.materials[1].channels.roughness = { value: 0.5, map: null, source: { from: 'file', detail: '' } };
  const points = Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0);
  document.meshes.push(
    createMesh('Crate', { points, faceCounts: Uint32Array.of(4), faceCorners: Uint32Array.of(0, 1, 2, 3) }),
  );
  document.nodes.push(
    createNode('Crate', 'mesh', -1, { mesh: 0, materials: [0] }),
    createNode('Top', 'mesh', -1, { mesh: 0, materials: [1] }),
  );
  return document;
}

/** Paths of records whose own values differ between two trees. */
function differences(a: FbxNode[], b: FbxNode[], place = ''): string[] {
  expect(a.map((node) => node.name)).toEqual(b.map((node) => node.name));
  return a.flatMap((node, i) => {
    const here = `${place}/${node.name}`;
    const own =
      JSON.stringify(node.properties, plain) === JSON.stringify(b[i].properties, plain) ? [] : [here];
    return [...own, ...differences(node.children, b[i].children, here)];
  });
}

function plain(_: string, value: unknown): unknown {
  if (typeof value === 'bigint') return `${value}n`;
  if (ArrayBuffer.isView(value)) return Array.from(value as Float64Array, String);
  return Object.is(value, -0) ? '-0' : value;
}

describe('FBX', () => {
  const files = existsSync(MODELS)
    ? readdirSync(MODELS, { recursive: true, encoding: 'utf8' }).filter(
        (file) => /\.fbx$/i.test(file) && !/transparentTest/.test(file),
      )
    : [];

  it('has files to try', () => expect(files.length).toBeGreaterThan(10));

  it.each(files)('%s goes through untouched', (file) => {
    const bytes = new Uint8Array(readFileSync(join(MODELS, file)));
    const patched = patchFbx(bytes, file, emptyPatch()).files.get(file) as Uint8Array;
    if (bytes[0] !== 0x4b) expect(Buffer.compare(patched, bytes)).toBe(0);
    else {
      const [before, after] = [parseBinaryFbx(bytes), parseBinaryFbx(patched)];
      expect(after.fault).toBeNull();
      expect(after.version).toBe(before.version);
      expect(differences(before.nodes, after.nodes)).toEqual([]);
    }
  });

  it.each(['binary', 'text'] as const)('%s: only what is relinked or given a value differs', (form) => {
    const bytes = writeFbx(crate(), { form }).bytes;
    const patch = {
      ...emptyPatch(),
      images: [{ written: 'maps/plank.png', path: 'found/oak.png' }],
      values: [
        { material: 'Plank', channel: 'baseColor' as const, value: [1, 1, 1] as [number, number, number] },
      ],
    };
    const patched = patchFbx(bytes, 'c.fbx', patch).files.get('c.fbx') as Uint8Array;
    const document = readFbx(patched, 'c.fbx');
    expect(document.images[0]).toMatchObject({ written: 'found/oak.png', relative: 'found/oak.png' });
    expect(document.materials[0].channels.baseColor?.value).toEqual([1, 1, 1]);
    if (form === 'text') {
      const [before, after] = [bytes, patched].map((text) => new TextDecoder().decode(text).split('\n'));
      expect(before.length).toBe(after.length);
      expect(before.filter((line, i) => line !== after[i]).length).toBe(6);
    } else {
      const touched = differences(parseBinaryFbx(bytes).nodes, parseBinaryFbx(patched).nodes);
      expect(new Set(touched)).toEqual(
        new Set(
          ['FileName', 'RelativeFilename']
            .map((name) => `/Objects/Texture/${name}`)
            .concat([
              '/Objects/Video/Filename',
              '/Objects/Video/RelativeFilename',
              '/Objects/Video/Properties70/P',
              '/Objects/Material/Properties70/P',
            ]),
        ),
      );
    }
  });

  it('finds where records of a text file end by their braces, whatever their indentation and names', () => {
    const text = new TextDecoder()
      .decode(writeFbx(crate(), { form: 'text' }).bytes)
      .replace(/^[ \t]+/gm, '')
      .replace(/^(Material: .*)$/m, '$1 ; not } the end');
    const patch = {
      ...emptyPatch(),
      images: [{ written: 'maps/plank.png', path: 'found/oak {new}.png' }],
      values: [
        { material: 'Plank', channel: 'baseColor' as const, value: [1, 1, 1] as [number, number, number] },
      ],
    };
    const bytes = new TextEncoder().encode(text);
    const { files, missed } = patchFbx(bytes, 'c.fbx', patch);
    const document = readFbx(files.get('c.fbx') as Uint8Array, 'c.fbx');
    expect(missed).toEqual([]);
    expect(document.images[0]).toMatchObject({
      written: 'found/oak {new}.png',
      relative: 'found/oak {new}.png',
    });
    expect(document.materials[0].channels.baseColor?.value).toEqual([1, 1, 1]);
    // Paths in braces are no braces, also the second time.
    const back = { ...emptyPatch(), images: [{ written: 'found/oak {new}.png', path: 'maps/plank.png' }] };
    const again = patchFbx(files.get('c.fbx') as Uint8Array, 'c.fbx', back).files.get('c.fbx') as Uint8Array;
    expect(readFbx(again, 'c.fbx').images[0].written).toBe('maps/plank.png');
  });

  it('says what it cannot change, in words of its own', () => {
    const patch = {
      ...emptyPatch(),
      alphas: [{ material: 'Plank', mode: 'mask' as const, cutoff: 0.5 }],
      sides: [{ material: 'Plank', doubleSided: true }],
      values: [{ material: 'Lid', channel: 'transmission' as const, value: 1 }],
    };
    expect(patchFbx(writeFbx(crate(), { form: 'text' }).bytes, 'c.fbx', patch).missed).toEqual([
      'FBX has no alpha mode',
      'FBX says nothing of sides per material',
      'Lid does not state transmission, so it cannot be changed in a text file',
    ]);
    expect(patchFbx(writeFbx(crate()).bytes, 'c.fbx', { ...patch, values: [] }).missed).toEqual([
      'FBX has no alpha mode',
      'FBX says nothing of sides per material',
    ]);
    expect(patchFbx(writeFbx(crate()).bytes, 'c.fbx', emptyPatch()).missed).toEqual([]);
    expect(() => patchFbx(writeFbx(crate()).bytes.slice(0, 900), 'c.fbx', emptyPatch())).toThrow(
      /ends|cut|missing/,
    );
  });

  it.each(['binary', 'text'] as const)('tells a value that is read otherwise all the same (%s)', (form) => {
    const set = (
      channel: 'opacity' | 'baseColor',
      value: number | [number, number, number],
      bytes: Uint8Array,
    ) => patchFbx(bytes, 'c.fbx', { ...emptyPatch(), values: [{ material: 'Plank', channel, value }] });
    const { bytes } = writeFbx(crate(), { form });
    expect(set('baseColor', [0.5, 0.5, 0.5], bytes).missed).toEqual([]);
    if (form === 'text') return;
    // Its opacity makes the reader blend, which the person did not ask for.
    expect(set('opacity', 0.25, bytes).missed).toEqual(['Plank is set to blend by its opacity']);
    // A factor that is multiplied goes, so that the colour is what was set.
    const tree = parseBinaryFbx(bytes);
    const objects = tree.nodes.find(({ name }) => name === 'Objects');
    const rows = objects?.children
      .find(({ name }) => name === 'Material')
      ?.children.find(({ name }) => name === 'Properties70');
    rows?.children.push(numberEntry('DiffuseFactor', 0.5));
    const dimmed = writeBinaryFbx(tree);
    expect(readFbx(dimmed, 'c.fbx').materials[0].channels.baseColor?.value).toEqual([0.5, 0.25, 0.125]);
    const { files, missed } = set('baseColor', [0.8, 0.6, 0.4], dimmed);
    expect(missed).toEqual([]);
    expect(readFbx(files.get('c.fbx') as Uint8Array, 'c.fbx').materials[0].channels.baseColor?.value).toEqual(
      [0.8, 0.6, 0.4],
    );
  });

  it('sets opacity in every place that states it', () => {
    const { bytes } = writeFbx(crate());
    const patched = patchFbx(bytes, 'c.fbx', {
      ...emptyPatch(),
      values: [{ material: 'Plank', channel: 'opacity', value: 0.25 }],
    }).files.get('c.fbx') as Uint8Array;
    const document = readFbx(patched, 'c.fbx');
    expect(document.materials[0].channels.opacity?.value).toBeCloseTo(0.25, 12);
    expect(document.remarks.filter((remark) => remark.code === 'read.opacityContradiction')).toEqual([]);
  });
});

describe('MTL', () => {
  const text =
    '# Harrow Quay\r\nnewmtl Plank\r\n  Kd 1 0.5 0.25\r\nTr 0.8\r\nd 0.8\r\nmap_Kd -s 2 2 1 C:\\art\\plänk one.png\r\nillum 2\r\n\r\nnewmtl Lid\r\nPr 0.5\r\n';
  const patch = {
    ...emptyPatch(),
    images: [{ written: 'C:\\art\\plänk one.png', path: 'maps/plank.png' }],
    values: [
      { material: 'Plank', channel: 'opacity' as const, value: 1 },
      { material: 'Lid', channel: 'metalness' as const, value: 1 },
    ],
  };
  const expected = text
    .replace('C:\\art\\plänk one.png', 'maps/plank.png')
    .replace('Tr 0.8', 'Tr 0')
    .replace('d 0.8', 'd 1')
    .replace('Pr 0.5\r\n', 'Pr 0.5\r\nPm 1\r\n');

  it.each([
    ['UTF-8', new TextEncoder().encode(text), (bytes: Uint8Array) => new TextDecoder().decode(bytes)],
    [
      'UTF-16',
      new Uint8Array(Buffer.from(`\uFEFF${text}`, 'utf16le')),
      (bytes: Uint8Array) => new TextDecoder('utf-16le').decode(bytes),
    ],
    [
      'a legacy encoding',
      new Uint8Array(Buffer.from(text, 'latin1')),
      (bytes: Uint8Array) => new TextDecoder('latin1').decode(bytes),
    ],
  ])('in %s: other lines stay to the letter', async (_, bytes, decode) => {
    const { files, missed } = await patchMtl(['a.mtl'], memorySource('m', { 'a.mtl': bytes }), patch);
    expect(missed).toEqual([]);
    expect(decode(files.get('a.mtl') as Uint8Array).trimEnd()).toBe(expected.trimEnd());
  });

  it('says what it has no word for, and leaves files alone that nothing touches', async () => {
    const source = memorySource('m', { 'a.mtl': new TextEncoder().encode(text) });
    const { files, missed } = await patchMtl(['a.mtl'], source, {
      ...emptyPatch(),
      values: [{ material: 'Lid', channel: 'transmission', value: 1 }],
    });
    expect(missed).toEqual(['MTL has no word for transmission']);
    expect(files.size).toBe(0);
  });
});

describe('USD', () => {
  it.each(['usda', 'usdc'])(
    'a layer over %s changes what is read, and not the original',
    async (extension) => {
      const made = writeModel(crate(), `c.${extension}`).files.get(`c.${extension}`) as Uint8Array;
      const before = new Uint8Array(made);
      const source = memorySource('m', { [`c.${extension}`]: made });
      const document = await readUsd(made, `c.${extension}`, source);
      const patch = {
        ...emptyPatch(),
        images: [{ written: document.images[0].written, path: './found/oak.png' }],
        values: [{ material: 'Lid', channel: 'roughness' as const, value: 0.125 }],
      };
      const { files, missed } = await patchUsd(made, `c.${extension}`, source, patch);
      expect(missed).toEqual([]);
      expect(made).toEqual(before);
      const layer = files.get('c_mended.usda') as Uint8Array;
      const mended = await readUsd(
        layer,
        'c_mended.usda',
        memorySource('m', { [`c.${extension}`]: made, 'c_mended.usda': layer }),
      );
      expect(mended.images[0].written).toBe('./found/oak.png');
      expect(mended.materials[1].channels.roughness?.value).toBe(0.125);
      expect({ ...mended, images: [], materials: [] }).toEqual({
        ...document,
        images: [],
        materials: [],
        variant: 'text',
      });
    },
  );
});

describe('glTF', () => {
  it('keeps the binary chunk and all other JSON', async () => {
    const glb = await previewGlb(crate());
    const patched = patchGltf(glb, 'c.glb', {
      ...emptyPatch(),
      values: [{ material: 'Lid', channel: 'roughness', value: 0.125 }],
      sides: [{ material: 'Plank', doubleSided: true }],
    }).files.get('c.glb') as Uint8Array;
    const split = (bytes: Uint8Array) => {
      const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
      return {
        json: JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))),
        rest: bytes.subarray(20 + length),
      };
    };
    const [before, after] = [split(glb), split(patched)];
    expect(Buffer.compare(before.rest, after.rest)).toBe(0);
    expect(after.json.materials[1].pbrMetallicRoughness.roughnessFactor).toBe(0.125);
    expect(after.json.materials[0].doubleSided).toBe(true);
    expect({ ...after.json, materials: [] }).toEqual({ ...before.json, materials: [] });
  });

  it('changes an image path and keeps the layout of the text', () => {
    const text =
      '{\n  "asset": { "version": "2.0" },\n  "images": [\n    {\n      "uri": "old%20maps/a.png"\n    }\n  ],\n  "extras": {\n    "keep": [\n      1,\n      2\n    ]\n  }\n}\n';
    const patched = patchGltf(new TextEncoder().encode(text), 'c.gltf', {
      ...emptyPatch(),
      images: [{ written: 'old maps/a.png', path: 'maps/b c.png' }],
    });
    const json = JSON.parse(new TextDecoder().decode(patched.files.get('c.gltf')));
    expect(json.images[0].uri).toBe('maps/b%20c.png');
    expect(json.extras).toEqual({ keep: [1, 2] });
  });
});
