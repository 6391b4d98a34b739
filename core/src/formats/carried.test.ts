import { describe, expect, it } from 'vitest';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { createDocument, createNode, type SceneDocument } from '../scene/document.ts';
import { parseAsciiFbx } from './fbx/parseAscii.ts';
import { parseBinaryFbx } from './fbx/parseBinary.ts';
import { type FbxNode, textAt } from './fbx/tree.ts';
import { writeFbx } from './fbx/writeFbx.ts';
import { writeModel } from './writeModel.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const readText = (name: string, text: string) =>
  readModel(name, memorySource('test', { [name]: bytes(text) }));

/** Through a format and back. */
async function through(
  document: SceneDocument,
  name: string,
  form: 'text' | 'binary' = 'binary',
): Promise<SceneDocument> {
  return readModel(
    name,
    memorySource('test', Object.fromEntries(writeModel(document, name, { form }).files)),
  );
}

describe('what people added to nodes', () => {
  const custom = {
    owner: 'Harrow "Quay"',
    leased: true,
    broken: false,
    berth: 7,
    share: 0.125,
    spot: [1, 2.5, -3],
    list: [4, 5],
    none: '',
  };
  const document = createDocument('fbx', 'binary');
  document.nodes.push(createNode('crane', 'group', -1, { custom }));

  it.each([
    ['crane.fbx', 'binary'],
    ['crane.fbx', 'text'],
    ['crane.usda', 'binary'],
    ['crane.usdc', 'binary'],
  ] as const)('comes back from %s, %s, each with its kind', async (name, form) => {
    const { nodes } = await through(document, name, form);
    expect(nodes.find((node) => node.name === 'crane')?.custom).toEqual(custom);
  });

  it('stands in FBX as types that other readers know, marked as added', () => {
    const entries = propertiesOf(document, 'Model');
    expect(entries).toMatchObject({
      owner: ['KString', '', 'U', 'Harrow "Quay"'],
      leased: ['bool', '', 'U', 1],
      broken: ['bool', '', 'U', 0],
      berth: ['double', 'Number', 'U', 7],
      spot: ['Vector3D', 'Vector', 'U', 1, 2.5, -3],
      list: ['double', 'Vector', 'U', 4, 5],
    });
  });

  it('is read from FBX by its flag, whatever its type is called', async () => {
    const line = (name: string, type: string, flags: string, value: string) =>
      `P: "${name}", "${type}", "", "${flags}"${value}`;
    const { nodes } = await readText(
      'a.fbx',
      `; FBX 7.4.0 project file
Objects:  {
  Model: 1, "Model::hatch", "Null" {
    Properties70:  {
      ${line('url', 'XRefUrl', 'U', ',"http"')}
      ${line('when', 'DateTime', 'AU', ',"noon"')}
      ${line('empty', 'KString', 'U', '')}
      ${line('flag', 'Bool', 'U', ',0')}
      ${line('pair', 'Bool', 'U', ',0,1')}
      ${line('count', 'int', 'U', ',3')}
      ${line('odd', 'Compound', 'U', '')}
      ${line('mine', 'double', '', ',9')}
    }
  }
}
Connections:  {
  C: "OO",1,0
}
`,
    );
    expect(nodes[0].custom).toEqual({
      url: 'http',
      when: 'noon',
      empty: '',
      flag: false,
      pair: [0, 1],
      count: 3,
    });
  });
});

/** Objects of a kind in a written file. */
function recordsOf(document: SceneDocument, kind: string): FbxNode[] {
  const tree = parseBinaryFbx(writeFbx(document).bytes, 'a.fbx');
  return (tree.nodes.find(({ name }) => name === 'Objects')?.children ?? []).filter(
    ({ name }) => name === kind,
  );
}

function propertiesOf(document: SceneDocument, kind: string): Record<string, unknown[]> {
  const block = recordsOf(document, kind)
    .at(-1)
    ?.children.find(({ name }) => name === 'Properties70');
  return Object.fromEntries(
    (block?.children ?? []).map((entry) => [
      textAt(entry, 0) ?? '',
      entry.properties.slice(1).map(({ value }) => value),
    ]),
  );
}

describe('kinds of nodes in FBX', () => {
  it('are bones and groups by subclass and flag', () => {
    const document = createDocument('fbx', 'binary');
    document.nodes.push(createNode('jib', 'bone', -1), createNode('berth', 'group', -1));
    expect(recordsOf(document, 'Model').map((node) => textAt(node, 2))).toEqual(['LimbNode', 'Null']);
    const attributes = recordsOf(document, 'NodeAttribute');
    expect(attributes.map((node) => [textAt(node, 2), textAt(node.children[0], 0)])).toEqual([
      ['LimbNode', 'Skeleton'],
      ['Null', 'Null'],
    ]);
  });

  it('are placed by numbers, of which only those stand there that do something', () => {
    const document = createDocument('fbx', 'binary');
    const node = createNode('jib', 'group', -1, { visible: false });
    Object.assign(node.transform, {
      translation: [1, 2, 3],
      rotation: [10, 20, 30],
      scale: [2, 2, 2],
      rotationOrder: 'ZYX',
      rotationPivot: [0, 5, 0],
      geometricScale: [1, 1, 3],
    });
    document.nodes.push(node);
    const found = propertiesOf(document, 'Model');
    expect(found).toMatchObject({
      RotationOrder: ['enum', '', '', 5],
      RotationActive: ['bool', '', '', 1],
      RotationPivot: ['Vector3D', 'Vector', '', 0, 5, 0],
      GeometricScaling: ['Vector3D', 'Vector', '', 1, 1, 3],
      'Lcl Translation': ['Lcl Translation', '', 'A', 1, 2, 3],
      'Lcl Rotation': ['Lcl Rotation', '', 'A', 10, 20, 30],
      'Lcl Scaling': ['Lcl Scaling', '', 'A', 2, 2, 2],
      Visibility: ['Visibility', '', 'A', 0],
    });
    for (const absent of [
      'RotationOffset',
      'ScalingOffset',
      'ScalingPivot',
      'PreRotation',
      'PostRotation',
      'GeometricTranslation',
      'GeometricRotation',
    ])
      expect(found).not.toHaveProperty(absent);
  });
});

describe('numbers in OBJ', () => {
  const first = async (text: string) => {
    const { meshes, remarks } = await readText('a.obj', `v ${text} 0 0\nv 0 1 0\nv 1 1 0\nf 1 2 3\n`);
    return [meshes[0].points[0], remarks.some(({ code }) => code === 'shape.notFinite')];
  };

  it.each<[string, number]>([
    ['0', 0],
    ['9', 9],
    ['10.09', 10.09],
    ['+1.5', 1.5],
    ['-.5', -0.5],
    ['3.', 3],
    ['1e-3', 0.001],
    ['-2.5E+2', -250],
    ['0.1234567890123456789', 0.12345678901234568],
    ['12345678901234567890', 12345678901234567000],
    ['1e308', 1e308],
  ])('%s is read as it is', async (text, expected) => {
    expect(await first(text)).toEqual([expected, false]);
  });

  it.each(['nan', 'abc', '1:2', '1/2', '--1', '1e999', '.', '-'])('%s is none, and is told', async (text) => {
    expect(await first(text)).toEqual([0, true]);
  });
});

describe('numbers in text FBX', () => {
  const values = (text: string) =>
    parseAsciiFbx(bytes(`; FBX 7.4.0 project file\nA: ${text}\n`), 'a.fbx').nodes[0].properties.map(
      ({ type, value }) => [type, value],
    );

  it('are whole, broken or long by how they are written, and a list from five on', () => {
    expect(values('1, -2')).toEqual([
      ['I', 1],
      ['I', -2],
    ]);
    expect(values('1, 2.5')).toEqual([
      ['D', 1],
      ['D', 2.5],
    ]);
    expect(values('2147483647')).toEqual([['I', 2147483647]]);
    expect(values('2147483648')).toEqual([['L', 2147483648n]]);
    expect(values('9007199254740993')).toEqual([['L', 9007199254740993n]]);
    expect(values('1, 2, 3, 4')).toHaveLength(4);
    expect(values('1, 2, 3, 4, 5')).toEqual([['i', Int32Array.of(1, 2, 3, 4, 5)]]);
    expect(values('1, 2, 3, 4, 5.5')).toEqual([['d', Float64Array.of(1, 2, 3, 4, 5.5)]]);
    expect(values('1, 2, 3, 4, 3000000000')).toEqual([['d', Float64Array.of(1, 2, 3, 4, 3000000000)]]);
    expect(values('"a", 1, 2, 3, 4, 5')).toHaveLength(6);
    // An exponent makes a broken number, whole as it may be, and so does one that is too large.
    for (const text of ['2e2', '2E2'])
      expect(values(`${text}, 3`)).toEqual([
        ['D', 200],
        ['D', 3],
      ]);
    expect(values('1e999, 3')).toEqual([
      ['D', 0],
      ['D', 3],
    ]);
  });

  it('stand behind names of up to 257 letters, in one line with them', () => {
    const faultOf = (text: string) =>
      parseAsciiFbx(bytes(`; FBX 7.4.0 project file\n${text}`), 'a.fbx').fault;
    expect(faultOf(`${'A'.repeat(257)}: 1`)).toBeNull();
    expect(faultOf(`${'A'.repeat(258)}: 1`)?.message).toBe('a record name is expected');
    expect(faultOf('A\n: 1')).toMatchObject({ message: 'a record name is expected', place: { line: 2 } });
  });
});

describe('glTF that cannot be read', () => {
  const fault = async (name: string, content: Uint8Array | string) => {
    const data = typeof content === 'string' ? bytes(content) : content;
    return readModel(name, memorySource('test', { [name]: data })).then(
      () => null,
      ({ code, place, hint }) => ({ code, file: place.file, hint }),
    );
  };

  it('says what is wrong, in which file, and what to do', async () => {
    expect(await fault('a.gltf', '{"asset":{"version":"1.0"}}')).toEqual({
      code: 'gltf.version',
      file: 'a.gltf',
      hint: 'Export the model as glTF 2.0.',
    });
    expect(await fault('a.gltf', '{')).toEqual({
      code: 'gltf.broken',
      file: 'a.gltf',
      hint: 'Export or copy the file again.',
    });
    expect(await fault('a.gltf', '{"asset":{"version":"2.0"}}')).toEqual({
      code: 'gltf.empty',
      file: 'a.gltf',
      hint: 'Export the model again.',
    });
    expect(
      await fault(
        'a.gltf',
        '{"asset":{"version":"2.0"},"buffers":[{"uri":"a.bin","byteLength":4}],"nodes":[{}],"scenes":[{"nodes":[0]}]}',
      ),
    ).toEqual({
      code: 'gltf.missing',
      file: 'a.gltf',
      hint: 'Drop the .bin file beside the model.',
    });
    expect(
      await fault('a.glb', Uint8Array.of(0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0, 200, 0, 0, 0)),
    ).toMatchObject({ code: 'gltf.broken', file: 'a.glb' });
  });
});
