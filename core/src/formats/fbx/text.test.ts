import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../../scene/document.ts';
import { parseBinaryFbx } from './parseBinary.ts';
import { doubles, integers, record } from './records.ts';
import { type FbxNode, type FbxProperty, NAME_SEPARATOR, textAt } from './tree.ts';
import { writeAsciiFbx } from './writeAscii.ts';
import { writeFbx } from './writeFbx.ts';

const HEAD = '; FBX 7.4.0 project file\n; ----------------------------------------------------\n\n';

/** The text of records, without the head that every file has. */
function text(...nodes: FbxNode[]): string {
  const whole = new TextDecoder().decode(writeAsciiFbx({ version: 7400, binary: false, nodes }));
  expect(whole.startsWith(HEAD)).toBe(true);
  return whole.slice(HEAD.length);
}

describe('FBX as text, word by word', () => {
  it.each<[FbxProperty, string]>([
    [{ type: 'S', value: 'Hull' }, '"Hull"'],
    [{ type: 'S', value: `Hull${NAME_SEPARATOR}Model` }, '"Model::Hull"'],
    [{ type: 'S', value: 'say "boat"\nand\rmore' }, '"say &quot;boat&quot;&lf;and&cr;more"'],
    [{ type: 'S', value: '' }, '""'],
    [{ type: 'C', value: 1 }, 'T'],
    [{ type: 'C', value: 0 }, 'F'],
    [{ type: 'C', value: 89 }, 'Y'],
    [{ type: 'L', value: 9007199254740993n }, '9007199254740993'],
    [{ type: 'Y', value: -7 }, '-7'],
    [{ type: 'I', value: 24 }, '24'],
    [{ type: 'F', value: 0.5 }, '0.5'],
    [{ type: 'D', value: 1e25 }, '1e25'],
    [{ type: 'D', value: 1.5e-9 }, '1.5e-9'],
  ])('value %#', (property, written) => {
    expect(text(record('Value', [property]))).toBe(`Value: ${written}\n`);
  });

  it('separates values by a comma and a space, those of properties by a comma alone', () => {
    const values: FbxProperty[] = [
      { type: 'S', value: 'Opacity' },
      { type: 'D', value: 0.5 },
    ];
    expect(text(record('Link', values))).toBe('Link: "Opacity", 0.5\n');
    expect(text(record('P', values))).toBe('P: "Opacity",0.5\n');
  });

  it('lists numbers with their count, 512 to a line', () => {
    expect(text(doubles('Vertices', [0, -1.5, 1e21]))).toBe('Vertices: *3 {\n\ta: 0,-1.5,1e21\n}\n');
    expect(text(integers('Materials', []))).toBe('Materials: *0 {\n\ta: \n}\n');
    expect(text(record('KeyTime', [{ type: 'l', value: BigInt64Array.of(46186158000n, -1n) }]))).toBe(
      'KeyTime: *2 {\n\ta: 46186158000,-1\n}\n',
    );
    const ones = (count: number) => new Array<number>(count).fill(1).join(',');
    expect(text(integers('Many', new Int32Array(513).fill(1)))).toBe(
      `Many: *513 {\n\ta: ${ones(512)},\n1\n}\n`,
    );
    expect(text(integers('Many', new Int32Array(512).fill(1)))).toBe(`Many: *512 {\n\ta: ${ones(512)}\n}\n`);
  });

  it('nests records by tabs, and opens a block for what has children or nothing at all', () => {
    const inner = record('Version', [{ type: 'I', value: 100 }]);
    expect(text(record('Objects', [], [record('Layer', [{ type: 'I', value: 0 }], [inner])]))).toBe(
      'Objects:  {\n\tLayer: 0 {\n\t\tVersion: 100\n\t}\n}\n',
    );
    expect(text(record('Takes'))).toBe('Takes:  {\n}\n');
    // Readers elsewhere count on the block of these.
    expect(text(record('AnimationLayer', [{ type: 'I', value: 4 }]))).toBe('AnimationLayer: 4 {\n}\n');
  });

  it('writes content in lines of base64, 3072 bytes each, with a comma where more follows', () => {
    const content = (length: number) =>
      text(record('Content', [{ type: 'R', value: new Uint8Array(length) }]));
    expect(content(3)).toBe('Content: ,\n"AAAA"\n');
    expect(content(3072)).toBe(`Content: ,\n"${'A'.repeat(4096)}"\n`);
    expect(content(3073)).toBe(`Content: ,\n"${'A'.repeat(4096)}",\n"AA=="\n`);
  });

  it('leaves out what only binary files have at their top', () => {
    expect(text(record('FileId'), record('CreationTime'), record('Creator'), record('References'))).toBe(
      'References:  {\n}\n',
    );
  });
});

/** Values of the Properties70 of the record of a kind, by name. */
function propertiesOf(document: SceneDocument, kind: string): Record<string, unknown[]> {
  const tree = parseBinaryFbx(writeFbx(document).bytes, 'a.fbx');
  const objects = tree.nodes.find(({ name }) => name === 'Objects')?.children ?? [];
  const found = objects.filter(({ name }) => name === kind).at(-1);
  const block = found?.children.find(({ name }) => name === 'Properties70');
  return Object.fromEntries(
    (block?.children ?? []).map((entry) => [
      textAt(entry, 0) ?? '',
      entry.properties.slice(1).map(({ value }) => value),
    ]),
  );
}

describe('attributes of nodes in FBX', () => {
  it('are a light with its kind by number, its strength in percent and its angles', () => {
    const document = createDocument('fbx', 'binary');
    document.lights.push({
      name: 'quay lamp',
      kind: 'spot',
      colour: [1, 0.5, 0.25],
      intensity: 2.5,
      castsShadow: true,
      innerAngle: 30,
      outerAngle: 45,
      size: [0, 0],
    });
    document.nodes.push(createNode('quay lamp', 'light', -1, { light: 0 }));
    const found = propertiesOf(document, 'NodeAttribute');
    expect(found).toMatchObject({
      LightType: ['enum', '', '', 2],
      CastLight: ['bool', '', '', 1],
      CastShadows: ['bool', '', '', 1],
      Color: ['Color', '', 'A', 1, 0.5, 0.25],
      Intensity: ['Number', '', 'A', 250],
      InnerAngle: ['Number', '', 'A', 30],
      OuterAngle: ['Number', '', 'A', 45],
    });
  });

  it('are clips of blend shapes in percent, in the ticks of the format', () => {
    const document = createDocument('fbx', 'binary');
    document.meshes.push({
      ...createMesh('hatch', {
        points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
        faceCounts: Uint32Array.of(3),
        faceCorners: Uint32Array.of(0, 1, 2),
      }),
      shapes: [
        {
          name: 'open',
          weight: 0,
          points: Uint32Array.of(0),
          offsets: Float64Array.of(0, 0, 1),
          normalOffsets: null,
        },
        {
          name: 'bent',
          weight: 0,
          points: Uint32Array.of(1),
          offsets: Float64Array.of(0, 1, 0),
          normalOffsets: null,
        },
      ],
    });
    document.nodes.push(createNode('hatch', 'mesh', -1, { mesh: 0 }));
    const values = Float64Array.of(0, 0.25, 0.5, 1);
    document.clips.push({
      name: 'swing',
      start: 0,
      end: 2,
      tracks: [{ node: 0, path: 'weights', times: Float64Array.of(0, 2), values, interpolation: 'linear' }],
    });
    const tree = parseBinaryFbx(writeFbx(document).bytes, 'a.fbx');
    const objects = tree.nodes.find(({ name }) => name === 'Objects')?.children ?? [];
    const curves = objects.filter(({ name }) => name === 'AnimationCurve');
    const numbers = (node: FbxNode, name: string) =>
      Array.from(
        node.children.find((child) => child.name === name)?.properties[0].value as ArrayLike<number>,
        Number,
      );
    expect(curves.map((curve) => numbers(curve, 'KeyValueFloat'))).toEqual([
      [0, 50],
      [25, 100],
    ]);
    // 46,186,158,000 ticks a second.
    expect(numbers(curves[0], 'KeyTime')).toEqual([0, 92_372_316_000]);
  });
});
