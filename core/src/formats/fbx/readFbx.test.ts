import { describe, expect, it } from 'vitest';
import { channelBuoy } from '../../../../demo/src/channelBuoy.ts';
import { countDocument, measureBounds } from '../../scene/measure.ts';
import { harbourParcel } from '../../test/harbour.ts';
import { parseAsciiFbx } from './parseAscii.ts';
import { parseBinaryFbx } from './parseBinary.ts';
import { readFbx } from './readFbx.ts';
import type { FbxTree } from './tree.ts';
import { writeBinaryFbx } from './writeBinary.ts';

const tree: FbxTree = {
  version: 7400,
  binary: true,
  nodes: [
    {
      name: 'Objects',
      properties: [
        { type: 'I', value: -7 },
        { type: 'L', value: 2n ** 60n },
        { type: 'S', value: 'Möwe' },
        { type: 'D', value: 0.1 },
      ],
      children: [
        {
          name: 'A',
          properties: [
            { type: 'd', value: Float64Array.from({ length: 100 }, (_, i) => i / 7) },
            { type: 'i', value: Int32Array.of(1, -2) },
          ],
          children: [],
        },
      ],
    },
  ],
};

describe('FBX record tree', () => {
  it.each([7400, 7500])('comes back equal from binary form, version %i', (version) => {
    const parsed = parseBinaryFbx(writeBinaryFbx({ ...tree, version }));
    expect(parsed.fault).toBeNull();
    expect(parsed.version).toBe(version);
    expect(parsed.nodes).toEqual(tree.nodes);
  });

  it('names the place where a cut file ends and never throws anything else', () => {
    const bytes = writeBinaryFbx(tree);
    for (let length = 28; length < 900 && length < bytes.length - 200; length += 13) {
      const { fault } = parseBinaryFbx(bytes.subarray(0, length), 'cut.fbx');
      expect(fault?.place.file).toBe('cut.fbx');
      expect(fault?.place.offset).toBeGreaterThan(0);
    }
  });

  it('reads the text form, old lists and new arrays alike', () => {
    const text =
      '; FBX 7.4.0 project file\nObjects: {\n  Geometry: 12345678901234, "Geometry::Hull", "Mesh" {\n    Vertices: *6 {\n a: 0,1.5,-2e3,\n4,5,6\n } \n  }\n  Model: "Model::Old", "Mesh" {\n Vertices: 1,2,3,4.5,5,6\n }\n}\n';
    const { nodes, fault } = parseAsciiFbx(new TextEncoder().encode(text));
    expect(fault).toBeNull();
    const [geometry, model] = nodes[0].children;
    expect(geometry.properties.map((property) => property.value)).toEqual([
      12345678901234n,
      'Hull\0\x01Geometry',
      'Mesh',
    ]);
    expect([...(geometry.children[0].properties[0].value as Float64Array)]).toEqual([0, 1.5, -2000, 4, 5, 6]);
    expect([...(model.children[0].properties[0].value as Float64Array)]).toEqual([1, 2, 3, 4.5, 5, 6]);
  });
});

describe('FBX model', () => {
  it('reads the buoy with its unit, materials and both paths', async () => {
    const { files } = await harbourParcel(channelBuoy);
    const document = readFbx(files['buoy/buoy_v007.fbx'], 'buoy_v007.fbx');
    const counts = countDocument(document);
    expect([counts.meshes, counts.materials, counts.maps]).toEqual([19, 5, 7]);
    expect(document.metresPerUnit).toBe(0.01);
    const bounds = measureBounds(document);
    // The roof's tip stands at 255 + 23 cm; the fender reaches 55 + 5.5 cm.
    expect(bounds?.max[1]).toBeCloseTo(2.78, 6);
    expect(bounds?.max[2]).toBeCloseTo(0.605, 6);
    expect(document.images[0]).toMatchObject({
      written: 'D:\\quay\\art\\buoy\\maps\\buoy_hull_basecolor.png',
      relative: 'maps\\buoy_hull_basecolor.png',
    });
    const cut = files['buoy/buoy_v007.fbx'];
    expect(
      readFbx(cut.subarray(0, cut.length * 0.8), 'cut.fbx').remarks.map((remark) => remark.code),
    ).toContain('read.cut');
  });
});
