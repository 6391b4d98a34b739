import { describe, expect, it } from 'vitest';
import type { SceneDocument } from '../../scene/document.ts';
import { parseAsciiFbx } from './parseAscii.ts';
import { readFbx } from './readFbx.ts';

/** A text FBX with a quad and a triangle over five points, and what a test adds. */
function quay({ mesh = '', objects = '', links = '', polygons = '0,1,2,-4,0,1,-5', material = '' }): string {
  return `; FBX 7.4.0 project file
FBXHeaderExtension:  {
    FBXVersion: 7400
}
Objects:  {
    Geometry: 10, "Geometry::Crate", "Mesh" {
        Vertices: *15 {
            a: 0,0,0,1,0,0,1,1,0,0,1,0,0,0,1
        }
        PolygonVertexIndex: *${polygons.split(',').length} {
            a: ${polygons}
        }
        ${mesh}
    }
    Model: 20, "Model::Crate", "Mesh" {
    }
    Material: 30, "Material::Plank", "" {
        ShadingModel: "phong"
        Properties70:  {
            ${material}
        }
    }
    ${objects}
}
Connections:  {
    C: "OO",20,0
    C: "OO",10,20
    C: "OO",30,20
    ${links}
}
`;
}

const read = (parts: Parameters<typeof quay>[0]): SceneDocument =>
  readFbx(new TextEncoder().encode(quay(parts)), 'odd.fbx');
const meshOf = (parts: Parameters<typeof quay>[0]) => read(parts).meshes[0];
const reported = (document: SceneDocument) =>
  document.remarks.map(({ code, subject }) => `${code} ${subject}`);

/** A UV layer; \`values\` are pairs. */
const uv = (
  mapping: string,
  reference: string,
  values: string,
  index?: string,
  element = 'LayerElementUV',
  names = ['UV', 'UVIndex'],
) => `
        ${element}: 0 {
            Name: "map1"
            MappingInformationType: "${mapping}"
            ReferenceInformationType: "${reference}"
            ${names[0]}: *${values.split(',').length} {
                a: ${values}
            }
            ${index === undefined ? '' : `${names[1]}: *${index.split(',').length} {\n                a: ${index}\n            }`}
        }`;

/** What a layer says at each corner, as numbers. */
function corners(document: SceneDocument): number[][] {
  const [mesh] = document.meshes;
  const [layer] = mesh.uvSets;
  const faceOf = [...mesh.faceCounts].flatMap((count, face) => new Array<number>(count).fill(face));
  return [...mesh.faceCorners].map((point, corner) => {
    const entry = layer.domain === 'corner' ? corner : layer.domain === 'face' ? faceOf[corner] : point;
    const offset = (layer.index ? layer.index[entry] : entry) * layer.size;
    return [...layer.values.subarray(offset, offset + layer.size)];
  });
}

describe('layers of a mesh', () => {
  it('are read by corner, point, face and once for all', () => {
    expect(
      corners(read({ mesh: uv('ByPolygonVertex', 'Direct', '0,0,1,0,1,1,0,1,5,5,6,5,5,6') }))[4],
    ).toEqual([5, 5]);
    expect(
      corners(
        read({ mesh: uv('ByPolygonVertex', 'IndexToDirect', '0,0,1,0,1,1,0,1', '0,1,2,3,3,2,1') }),
      ).slice(4),
    ).toEqual([
      [0, 1],
      [1, 1],
      [1, 0],
    ]);
    for (const mapping of ['ByVertice', 'ByVertex'])
      expect(corners(read({ mesh: uv(mapping, 'Direct', '0,0,1,0,1,1,0,1,9,9') }))[6]).toEqual([9, 9]);
    expect(corners(read({ mesh: uv('ByPolygon', 'Direct', '0.25,0.5,0.75,1') }))).toEqual([
      ...new Array(4).fill([0.25, 0.5]),
      ...new Array(3).fill([0.75, 1]),
    ]);
    expect(corners(read({ mesh: uv('AllSame', 'Direct', '0.25,0.5') }))).toEqual(
      new Array(7).fill([0.25, 0.5]),
    );
    expect(corners(read({ mesh: uv('AllSame', 'IndexToDirect', '0,0,0.25,0.5', '1') }))).toEqual(
      new Array(7).fill([0.25, 0.5]),
    );
  });

  it('read nothing where their index points at nothing', () => {
    expect(
      corners(read({ mesh: uv('ByPolygonVertex', 'IndexToDirect', '1,2,3,4', '0,1,-1,7,0,0,0') })).slice(
        0,
        4,
      ),
    ).toEqual([
      [1, 2],
      [3, 4],
      [0, 0],
      [0, 0],
    ]);
  });

  it.each<[string, string, RegExp]>([
    ['an unknown mapping', uv('ByEdge', 'Direct', '0,0,1,1'), /mapping "ByEdge" is not carried/],
    ['no index', uv('ByPolygonVertex', 'IndexToDirect', '0,0,1,1'), /index is missing/],
    ['too few entries', uv('ByPolygonVertex', 'Direct', '0,0,1,1'), /too few entries/],
    [
      'an index that is too short',
      uv('ByPolygonVertex', 'IndexToDirect', '0,0,1,1', '0,1'),
      /too few entries/,
    ],
  ])('with %s are left out, and that is said', (_what, mesh, message) => {
    const document = read({ mesh });
    expect(document.meshes[0].uvSets).toEqual([]);
    expect(document.remarks.find(({ code }) => code === 'read.layer')?.message).toMatch(message);
  });

  it('are followed where polygons are left out', () => {
    const document = read({
      polygons: '0,1,-3,0,9,-2,0,-2,1,2,-4',
      mesh: uv('ByPolygonVertex', 'Direct', Array.from({ length: 22 }, (_, i) => i).join()),
    });
    // The second names a missing point, the third has two corners.
    expect([...document.meshes[0].faceCounts]).toEqual([3, 3]);
    expect([...document.meshes[0].faceCorners]).toEqual([0, 1, 2, 1, 2, 3]);
    expect(corners(document)).toEqual([
      [0, 1],
      [2, 3],
      [4, 5],
      [16, 17],
      [18, 19],
      [20, 21],
    ]);
    expect(document.remarks.find(({ code }) => code === 'read.indexRange')).toMatchObject({
      severity: 'error',
      subject: 'Crate',
    });
  });

  it('of materials and smoothing hold one number a face', () => {
    const layer = (element: string, name: string, mapping: string, values: string) =>
      uv(mapping, 'IndexToDirect', values, undefined, element, [name, '']);
    const materials = (mapping: string, values: string) =>
      meshOf({ mesh: layer('LayerElementMaterial', 'Materials', mapping, values) }).faceMaterial;
    expect([...(materials('ByPolygon', '0,1') ?? [])]).toEqual([0, 1]);
    expect([...(materials('AllSame', '2') ?? [])]).toEqual([2, 2]);
    expect(materials('AllSame', '0')).toBeNull();
    expect(materials('ByPolygon', '0,0')).toBeNull();
    expect(materials('ByVertice', '0,1')).toBeNull();
    expect([...(materials('ByPolygon', '3') ?? [])]).toEqual([3, 0]);
    expect([
      ...(meshOf({ mesh: layer('LayerElementSmoothing', 'Smoothing', 'ByPolygon', '1,4') }).faceSmoothing ??
        []),
    ]).toEqual([1, 4]);
  });

  it('keep only whole points, and refuse more polygons than are allowed', () => {
    const text = quay({}).replace('*15', '*16').replace('0,0,1\n', '0,0,1,5\n');
    expect(readFbx(new TextEncoder().encode(text), 'a.fbx').meshes[0].points).toHaveLength(15);
  });
});

describe('textures of a material', () => {
  const texture = (id: number, name: string) => `
    Texture: ${id}, "Texture::${name}", "" {
        FileName: "art/${name}.png"
        RelativeFilename: "${name}.png"
    }`;

  it('in layers give the lowest, and say so', () => {
    const document = read({
      objects: `${texture(40, 'low')}${texture(41, 'high')}
    LayeredTexture: 50, "LayeredTexture::both", "" {
        LayeredTexture: 101
    }`,
      links: 'C: "OO",40,50\n    C: "OO",41,50\n    C: "OP",50,30, "DiffuseColor"',
    });
    expect(document.materials[0].channels.baseColor?.map?.image).toBe('art/low.png');
    expect(document.remarks.find(({ subject }) => subject === 'both')).toMatchObject({
      code: 'read.notCarried',
      severity: 'warning',
      message: 'of 2 texture layers only the lowest is carried',
    });
    const single = read({
      objects: `${texture(40, 'low')}\n    LayeredTexture: 50, "LayeredTexture::one", "" {\n    }`,
      links: 'C: "OO",40,50\n    C: "OP",50,30, "DiffuseColor"',
    });
    expect(reported(single)).not.toContain('read.notCarried one');
    const empty = read({
      objects: '    LayeredTexture: 50, "LayeredTexture::none", "" {\n    }',
      links: 'C: "OP",50,30, "DiffuseColor"',
    });
    expect(empty.materials[0].channels.baseColor?.map ?? null).toBeNull();
  });

  it('are linked to the channels that properties stand for, and others are told', () => {
    const document = read({
      objects: ['a', 'b', 'c', 'd', 'e', 'f'].map((name, i) => texture(40 + i, name)).join(''),
      links: [
        ['40', 'DiffuseColor'],
        ['41', 'NormalMap'],
        ['42', 'Bump'],
        ['43', 'EmissiveColor'],
        ['44', 'TransparentColor'],
        ['45', 'Reflection'],
      ]
        .map(([id, property]) => `C: "OP",${id},30, "${property}"`)
        .join('\n    '),
    });
    const { channels, alphaMode } = document.materials[0];
    expect(
      Object.fromEntries(
        Object.entries(channels).flatMap(([channel, one]) => (one?.map ? [[channel, one.map.image]] : [])),
      ),
    ).toMatchObject({
      baseColor: 'art/a.png',
      normal: 'art/b.png',
      emission: 'art/d.png',
      opacity: 'art/e.png',
    });
    expect(alphaMode).toBe('blend');
    // White is clear in a map of transparency that does not call itself opacity.
    expect(channels.opacity?.map?.invert).toBe(true);
    expect(reported(document)).toContain('read.notCarried Reflection');
  });

  it('of bumps and displacement are taken by as much as their factors say, which mean nothing without them', () => {
    const factors =
      'P: "BumpFactor", "double", "Number", "",0.03\n            P: "DisplacementFactor", "double", "Number", "",2.5';
    const links = ['C: "OP",40,30, "Bump"', 'C: "OP",41,30, "DisplacementColor"'].join('\n    ');
    const objects = `${texture(40, 'grain')}${texture(41, 'dents')}`;
    const amounts = (parts: Parameters<typeof quay>[0]) => {
      const { bump, height } = read(parts).materials[0].channels;
      return [bump && [bump.value, bump.map?.image], height && [height.value, height.map?.image]];
    };
    expect(amounts({ material: factors, objects, links })).toEqual([
      [0.03, 'art/grain.png'],
      [2.5, 'art/dents.png'],
    ]);
    expect(amounts({ objects, links })).toEqual([
      [1, 'art/grain.png'],
      [1, 'art/dents.png'],
    ]);
    expect(amounts({ material: factors })).toEqual([undefined, undefined]);
  });

  it('on transparency mean opacity where they say so, and the alpha of the base image itself', () => {
    const named = read({ objects: texture(40, 'leaf_opacity'), links: 'C: "OP",40,30, "TransparentColor"' })
      .materials[0];
    expect(named.channels.opacity?.map?.invert).toBe(false);
    const same = read({
      objects: texture(40, 'leaf') + texture(41, 'leaf'),
      links: 'C: "OP",40,30, "DiffuseColor"\n    C: "OP",41,30, "TransparentColor"',
    }).materials[0];
    expect(same.channels.opacity?.map).toMatchObject({
      image: same.channels.baseColor?.map?.image,
      component: 'a',
      invert: false,
    });
  });
});

describe('opacity that is stated in three ways', () => {
  const P = (name: string, ...values: number[]) => `P: "${name}", "Number", "", "A",${values.join()}`;
  const opacity = (...lines: string[]) => {
    const { materials, remarks } = read({ material: lines.join('\n            ') });
    return [
      materials[0].channels.opacity?.value ?? null,
      remarks.some(({ code }) => code === 'read.opacityContradiction'),
    ];
  };

  it('is one minus the transparency, by colour and factor, and a contradiction is told', () => {
    expect(opacity(P('TransparentColor', 1, 1, 1), P('TransparencyFactor', 0.25))).toEqual([0.75, false]);
    expect(opacity(P('TransparencyFactor', 0.4))).toEqual([0.6, false]);
    expect(opacity(P('TransparentColor', 0.5, 0.5, 0.5))).toEqual([0.5, false]);
    expect(opacity(P('TransparencyFactor', 0.4), P('Opacity', 0.6))).toEqual([0.6, false]);
    expect(opacity(P('TransparencyFactor', 0.4), P('Opacity', 0.9))[1]).toBe(true);
  });
});

describe('the text form', () => {
  const parse = (text: string) =>
    parseAsciiFbx(new TextEncoder().encode(`; FBX 7.4.0 project file\n${text}`), 'a.fbx');

  it('holds numbers of every length, signs, exponents, letters and none', () => {
    const { nodes, fault } = parse(
      'A: 1,-2,+3,1.5,-.5,2e3,-1.25E-3,Y,T,"x, &quot;y&quot;"\nE: 9007199254740993\nF: -9223372036854775808\nB: \nC: *0 {\n}\nD: *2 {\n a: 1,2\n}\nG: *2 {\n a: 1,9007199254740991\n}\n',
    );
    expect(fault).toBeNull();
    const values = (name: string) =>
      nodes.find((node) => node.name === name)?.properties.map(({ value }) => value);
    // Many numbers in a row are one list.
    expect(Array.from(values('A')?.[0] as Float64Array)).toEqual([1, -2, 3, 1.5, -0.5, 2000, -0.00125]);
    expect(values('A')?.slice(1)).toEqual([1, 1, 'x, "y"']);
    expect([values('E'), values('F')]).toEqual([[9007199254740993n], [-9223372036854775808n]]);
    expect(values('B')).toEqual([]);
    expect(Array.from(values('C')?.[0] as Float64Array)).toEqual([]);
    expect(values('D')).toEqual([Int32Array.of(1, 2)]);
    expect(values('G')).toEqual([BigInt64Array.of(1n, 9007199254740991n)]);
  });

  it('says where it ends too early, and keeps what stands before', () => {
    const { nodes, fault } = parse('A: 1\nB: "open');
    expect(nodes[0]).toMatchObject({ name: 'A' });
    expect(fault).toMatchObject({ code: expect.stringMatching(/^fbx\./), place: { file: 'a.fbx' } });
    expect(parse('A: {\n B: 1\n').fault).not.toBeNull();
  });

  it('says where a number is missing, and takes letters for what they mean', () => {
    const { nodes, fault } = parse('A: 1\nB: *3 {\n a: -x\n}\n');
    expect(nodes[0]).toMatchObject({ name: 'A', properties: [{ value: 1 }] });
    expect(fault).toMatchObject({ code: 'fbx.broken', place: { file: 'a.fbx' } });
    const flags = parse('A: T\nB: F\nC: N\nD: Y\nE: W\nF: Word\n').nodes;
    expect(flags.map(({ properties: [{ type, value }] }) => [type, value])).toEqual([
      ['C', 1],
      ['C', 0],
      ['C', 0],
      ['C', 1],
      ['C', 87],
      ['S', 'Word'],
    ]);
  });

  it('goes on after a number at commas, blanks, brackets and what ends a line', () => {
    const { nodes, fault } = parse('A: 1.5,2.5\nB: 3.25;c\nC: 4.125 {\n D: 7.0625}\nE: 5.5');
    expect(fault).toBeNull();
    const values = (list: typeof nodes): unknown[] =>
      list.map(({ name, properties, children }) => [
        name,
        ...properties.map(({ value }) => value),
        ...values(children),
      ]);
    expect(values(nodes)).toEqual([
      ['A', 1.5, 2.5],
      ['B', 3.25],
      ['C', 4.125, ['D', 7.0625]],
      ['E', 5.5],
    ]);
  });
});

describe('objects that are not carried', () => {
  it('are told by what they are, those of unknown kinds by their kind', () => {
    const objects = `Constraint: 50, "Constraint::Aim", "" {\n}
    Audio: 51, "Audio::Horn", "" {\n}
    Tide: 52, "Tide::Ebb", "" {\n}`;
    const told = read({ objects }).remarks.filter(({ code }) => code === 'read.notCarried');
    expect(told.map(({ subject, message }) => [subject, message])).toEqual([
      ['constraints', 'not carried: Aim'],
      ['sounds', 'not carried: Horn'],
      ['objects of kind Tide', 'not carried: Ebb'],
    ]);
  });
});

describe('shapes', () => {
  /** A channel with shapes, the points that each names and how far they move. */
  const shapes = (channel: string, ...targets: [indices: string, offsets: string, normals?: string][]) =>
    read({
      objects: `
    Deformer: 40, "Deformer::Smile", "BlendShape" {
    }
    Deformer: 41, "SubDeformer::Left", "BlendShapeChannel" {
        ${channel}
    }
    ${targets
      .map(
        ([indices, offsets, normals], i) => `Geometry: ${50 + i}, "Geometry::Target${i}", "Shape" {
        Indexes: *${indices.split(',').length} {
            a: ${indices}
        }
        Vertices: *${offsets.split(',').length} {
            a: ${offsets}
        }
        ${normals === undefined ? '' : `Normals: *${normals.split(',').length} {\n            a: ${normals}\n        }`}
    }`,
      )
      .join('\n    ')}`,
      links: `C: "OO",40,10
    C: "OO",41,40
    ${targets.map((_, i) => `C: "OO",${50 + i},41`).join('\n    ')}`,
    });
  const [first, second] = ['0,0,1,0,2,0,3,0,0', '0,1,0,0,1,0,1,0,0'];

  it('move the points that they name, as far as their channel says', () => {
    const [shape] = shapes('DeformPercent: 25', ['0,2,4', first, second]).meshes[0].shapes;
    expect([shape.name, shape.weight, [...shape.points]]).toEqual(['Left', 0.25, [0, 2, 4]]);
    expect([...shape.offsets]).toEqual([0, 0, 1, 0, 2, 0, 3, 0, 0]);
    expect([...(shape.normalOffsets ?? [])]).toEqual([0, 1, 0, 0, 1, 0, 1, 0, 0]);
    const stated = shapes(
      'Properties70:  {\n            P: "DeformPercent", "Number", "", "A",60\n        }',
      ['0', '0,0,1'],
    ).meshes[0].shapes[0];
    expect([stated.weight, stated.normalOffsets]).toEqual([0.6, null]);
  });

  it('stand as they are written at the percent that is said for them', () => {
    const weight = (channel: string, ...targets: [string, string][]) =>
      shapes(channel, ...targets).meshes[0].shapes[0].weight;
    const one: [string, string] = ['0', '0,0,1'];
    const list = (text: string) =>
      `FullWeights: *${text.split(',').length} {\n            a: ${text}\n        }`;
    expect(weight(`DeformPercent: 30\n        ${list('60')}`, one)).toBe(0.5);
    expect(weight(`DeformPercent: 30\n        ${list('0')}`, one)).toBe(0.3);
  });

  it('leave out points that are not there and such without an offset', () => {
    const [shape] = shapes('', ['0,5,-1,4,2', `7,8,9,${first}`, `1,1,1,${second},2,2,2`]).meshes[0].shapes;
    expect([[...shape.points], [...shape.offsets]]).toEqual([
      [0, 4],
      [7, 8, 9, 3, 0, 0],
    ]);
    expect([...(shape.normalOffsets ?? [])]).toEqual([1, 1, 1, 1, 0, 0]);
    const short = shapes('', ['0,1', '1,2,3,4,5']).meshes[0].shapes[0];
    expect([[...short.points], [...short.offsets], short.weight]).toEqual([[0], [1, 2, 3], 0]);
  });

  it('between others are shapes of their own, weighed as the channel goes through them', () => {
    const between = (channel: string) => {
      const document = shapes(channel, ['0', '1,0,0'], ['1', '2,0,0']);
      expect(reported(document)).toContain('read.notCarried in-between shapes');
      return document.meshes[0].shapes.map(({ name, points, offsets, weight }) => ({
        name,
        moves: [...points, ...offsets],
        weight,
      }));
    };
    expect(between('')).toEqual([
      { name: 'Target0', moves: [0, 1, 0, 0], weight: 0 },
      { name: 'Left', moves: [1, 2, 0, 0], weight: 0 },
    ]);
    const weights = (channel: string) => between(channel).map(({ weight }) => weight);
    const full = (text: string) => `\n        FullWeights: *2 {\n            a: ${text}\n        }`;
    // Half way to the first; at it; a quarter of the way from it to the second; a quarter beyond that.
    expect(weights(`DeformPercent: 10${full('20,60')}`)).toEqual([0.5, 0]);
    expect(weights(`DeformPercent: 20${full('20,60')}`)).toEqual([1, 0]);
    expect(weights(`DeformPercent: 30${full('20,60')}`)).toEqual([0.75, 0.25]);
    expect(weights(`DeformPercent: 70${full('20,60')}`)).toEqual([-0.25, 1.25]);
    // Without percents that rise they stand evenly.
    expect(weights('DeformPercent: 75')).toEqual([0.5, 0.5]);
    expect(weights(`DeformPercent: 75${full('60,20')}`)).toEqual([0.5, 0.5]);
  });
});

describe('a file that ends too early', () => {
  const whole = quay({});
  const cut = (text: string) => readFbx(new TextEncoder().encode(text), 'odd.fbx');

  it('is read as far as it goes where there are faces, and refused where there are none', () => {
    const document = cut(whole.slice(0, whole.indexOf('Material: 30')));
    expect(document.meshes[0].faceCounts.length).toBe(2);
    expect(reported(document)).toContain('read.cut odd.fbx');
    const before = whole.slice(0, whole.indexOf('PolygonVertexIndex'));
    expect(() => cut(before)).toThrow(expect.objectContaining({ code: 'fbx.broken' }));
  });
});
