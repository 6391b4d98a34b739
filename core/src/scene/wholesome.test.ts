import { describe, expect, it } from 'vitest';
import { formatOfPath, isImagePath } from '../images/format.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { lens } from '../test/lens.ts';
import { riggedCrane } from '../test/rigged.ts';
import type { SceneDocument, SceneNode } from './document.ts';
import { makeWholesome } from './wholesome.ts';

function made(change: (document: SceneDocument) => void): SceneDocument {
  const document = riggedCrane();
  change(document);
  makeWholesome(document);
  return document;
}
const told = ({ remarks }: SceneDocument) =>
  remarks.map(({ code, subject, count }) => `${code} ${subject} ${count}`);

describe('a document as read', () => {
  it('stays as it is where nothing is wrong', () => {
    const document = riggedCrane();
    document.cameras.push(lens({ far: Number.POSITIVE_INFINITY }));
    const before = structuredClone(document);
    makeWholesome(document);
    expect(document).toEqual(before);
  });

  it('has 0 for numbers that are not finite, and tells where and how many', () => {
    const document = made(({ meshes, nodes, materials }) => {
      meshes[0].points.set([Number.NaN, Number.POSITIVE_INFINITY], 3);
      meshes[0].uvSets[0].values[1] = Number.NEGATIVE_INFINITY;
      nodes[0].transform.translation = [1, Number.NaN, 2];
      materials[0].channels.baseColor = {
        value: [0.5, Number.NaN, 0],
        map: null,
        source: { from: 'file', detail: '' },
      };
    });
    expect([...document.meshes[0].points.slice(3, 6)]).toEqual([0, 0, 0]);
    expect(document.meshes[0].uvSets[0].values[1]).toBe(0);
    expect(document.nodes[0].transform.translation).toEqual([1, 0, 2]);
    expect(document.materials[0].channels.baseColor?.value).toEqual([0.5, 0, 0]);
    expect(told(document).sort()).toEqual([
      'read.badNumber Crane, translation 1',
      'read.badNumber Steel, value 1',
      'read.badNumber map1, values 1',
      'shape.notFinite Jib 2',
    ]);
  });

  it('leaves out tracks that do not go forward, and takes the span of the others', () => {
    const document = made(({ clips }) => {
      clips[0].tracks[0].times = Float64Array.of(0, 2, 1);
      clips[0].end = Number.NaN;
      clips[1].tracks[0].times[1] = 1e300;
    });
    expect(document.clips.map(({ tracks, start, end }) => [tracks.length, start, end])).toEqual([
      [1, 0, 2],
      [1, 0, 1],
    ]);
    expect(told(document)).toEqual(['read.badNumber swing 1', 'read.badNumber lift 1']);
  });

  it.each([0, -1, Number.NaN, Number.POSITIVE_INFINITY])('takes metres for a unit of %s', (unit) => {
    const document = made((one) => {
      one.metresPerUnit = unit;
    });
    expect([document.metresPerUnit, document.unitStated, told(document)]).toEqual([
      1,
      false,
      ['read.unit unit 1'],
    ]);
  });

  it('has names that can be written, the same everywhere', () => {
    const document = made(({ nodes, materials }) => {
      nodes[0].name = 'Cra\0ne';
      nodes[0].custom = { note: 'half \ud83d letter' };
      materials[0].name = materials[0].key = 'Ste\0el';
    });
    expect([document.nodes[0].name, document.nodes[0].custom.note]).toEqual([
      'Cra\ufffdne',
      'half \ufffd letter',
    ]);
    expect([document.materials[0].name, document.materials[0].key]).toEqual(['Ste\ufffdel', 'Ste\ufffdel']);
    expect(told(document)).toEqual(['read.badName Cra\ufffdne 2', 'read.badName Ste\ufffdel 2']);
  });

  it('has no weights of joints that are not there', () => {
    const document = made(({ meshes }) => void meshes[0].influences?.joints.set([3, 9], 2));
    const { joints, weights } = document.meshes[0].influences ?? { joints: [], weights: [] };
    expect([[...joints.slice(0, 5)], [...weights.slice(0, 5)]]).toEqual([
      [0, 0, 0, 0, 0],
      [1, 1, 0, 0, 0.25],
    ]);
    expect(told(document)).toEqual(['read.indexRange jib 2']);
  });

  it('keeps the weights of a mesh whose node has no skin, for others that have', () => {
    const document = made(({ nodes }) => {
      const jib = nodes.find(({ mesh }) => mesh === 0) as SceneNode;
      nodes.push({ ...jib, name: 'Spare', skin: -1 });
    });
    expect(told(document)).toEqual([]);
    expect(document.meshes[0].influences).toEqual(riggedCrane().meshes[0].influences);
    expect(told(made(({ meshes }) => void Object.assign(meshes[0], { influences: null })))).toEqual([]);
  });

  it('is what every reader gives', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 0 1 0\no a\0b\nf 1 2 3\n';
    const { nodes, remarks } = await readModel(
      'a.obj',
      memorySource('a', { 'a.obj': new TextEncoder().encode(text) }),
    );
    expect([nodes[0].name, remarks.map(({ code }) => code)]).toEqual(['a\ufffdb', ['read.badName']]);
  });
});

describe('names that are words of the language', () => {
  it.each(['__proto__', 'constructor', 'toString', 'hasOwnProperty'])(
    '%s is a name like any other',
    async (name) => {
      const files = {
        [`${name}.obj`]: new TextEncoder().encode(
          `mtllib ${name}.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\no ${name}\nusemtl ${name}\nf 1 2 3\n`,
        ),
        [`${name}.mtl`]: new TextEncoder().encode(`newmtl ${name}\nKd 0.5 0.25 0\nmap_Kd ${name}.png\n`),
      };
      const { nodes, materials, images } = await readModel(`${name}.obj`, memorySource('a', files));
      expect([
        nodes[0].name,
        materials[0].name,
        materials[0].channels.baseColor?.value,
        images[0].written,
      ]).toEqual([name, name, [0.5, 0.25, 0], `${name}.png`]);
      await expect(
        readModel(`a.${name}`, memorySource('a', { [`a.${name}`]: new Uint8Array(3) })),
      ).rejects.toMatchObject({ code: 'model.format' });
    },
  );
});

describe('kinds that are words of the language', () => {
  const read = (path: string, text: string, more: Record<string, string> = {}) => {
    const files = Object.fromEntries(
      Object.entries({ ...more, [path]: text }).map(([name, content]) => [
        name,
        new TextEncoder().encode(content),
      ]),
    );
    return readModel(path, memorySource('a', files));
  };
  const plain = (document: SceneDocument) => structuredClone(document);
  const QUAD =
    'point3f[] points = [(0,0,0), (1,0,0), (0,1,0)]\nint[] faceVertexCounts = [3]\nint[] faceVertexIndices = [0, 1, 2]';

  it.each(['constructor', 'toString', '__proto__'])('%s is no kind of FBX, MTL or USD', async (word) => {
    const fbx = plain(
      await read(
        'a.fbx',
        `; FBX 7.4.0 project file\nObjects:  {\n  Model: 1, "Model::post", "${word}" {\n  }\n  ${word}: 2, "${word}::x", "" {\n  }\n}\nConnections:  {\n  C: "OP",2,1,"${word}"\n}\n`,
      ),
    );
    expect(fbx.nodes.map(({ name, kind }) => [name, kind])).toEqual([['post', 'group']]);
    const mtl = { 'a.mtl': `newmtl Wood\n${word} 1 2 3\nKd 0.5 0.5 0.5\n` };
    const obj = plain(
      await read('a.obj', 'mtllib a.mtl\nusemtl Wood\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n', mtl),
    );
    expect(Object.keys(obj.materials[0].channels)).toEqual(['baseColor']);
    const usd = plain(
      await read(
        'a.usda',
        `#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" )\ndef ${word} "Quay" {\n def Mesh "Wall" { ${QUAD}\n float2[] primvars:st = [(0,0)] ( interpolation = "${word}" )\n rel material:binding = </Quay/Stone> }\n def Material "Stone" { token outputs:surface.connect = </Quay/Stone/S.outputs:surface>\n def Shader "S" { uniform token info:id = "${word}" token outputs:surface } } }`,
      ),
    );
    expect([usd.meshes.length, usd.lights, usd.nodes.map(({ name }) => name)]).toEqual([
      1,
      [],
      ['Quay', 'Wall'],
    ]);
    expect([isImagePath(`a.${word}`), formatOfPath(`a.${word}`)]).toEqual([false, null]);
  });
});
