import { describe, expect, it } from 'vitest';
import {
  createDocument,
  createMesh,
  createNode,
  type Layer,
  type PolygonMesh,
  type SceneDocument,
  Z_UP,
} from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { toTriangles } from '../scene/triangulate.ts';
import { compareGeometry } from './compareGeometry.ts';
import { worldParts } from './worldParts.ts';

/** A box of quads with UVs, normals and colours per corner; its top and bottom have another material. */
function box([w, h, d]: [number, number, number]): PolygonMesh {
  const points = Float64Array.from(
    [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? w : 0, i & 2 ? h : 0, i & 4 ? d : 0]),
  );
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ];
  const normals = [
    [-1, 0, 0],
    [1, 0, 0],
    [0, -1, 0],
    [0, 1, 0],
    [0, 0, -1],
    [0, 0, 1],
  ];
  const corner = (name: string, size: 2 | 3, of: (face: number, k: number) => number[]): Layer => ({
    name,
    size,
    domain: 'corner',
    values: Float64Array.from(quads.flatMap((quad, face) => quad.flatMap((_, k) => of(face, k)))),
    index: null,
  });
  const uv = [
    [0.1, 0.1],
    [0.9, 0.1],
    [0.9, 0.8],
    [0.1, 0.8],
  ];
  return createMesh('box', {
    points,
    faceCounts: Uint32Array.from(quads.map(() => 4)),
    faceCorners: Uint32Array.from(quads.flat()),
    faceMaterial: Int32Array.from([0, 0, 1, 1, 0, 0]),
    normals: corner('normals', 3, (face) => normals[face]),
    uvSets: [
      corner('map1', 2, (face, k) => [
        uv[k][0] / 2 + (face % 2) / 2,
        uv[k][1] / 3 + Math.floor(face / 2) / 3,
      ]),
    ],
    colours: [corner('paint', 3, (face) => [face / 6, 0.5, 0.2])],
  });
}

/** A crate with a lid on it, half a metre aside. */
function crate(): SceneDocument {
  const document = createDocument('fbx', '');
  document.materials = ['Wood', 'Iron', 'Rope'].map((name) => createMaterial(name, 'metalRough'));
  document.meshes = [box([1, 0.6, 0.4]), box([1.1, 0.1, 0.5])];
  const lid = createNode('Lid', 'mesh', 0, { mesh: 1, materials: [0, 1] });
  lid.transform.translation = [0.5, 0.6, 0];
  document.nodes = [createNode('Crate', 'mesh', -1, { mesh: 0, materials: [0, 1] }), lid];
  return document;
}

/** Changes a document in place, or gives another one. */
type Change = (document: SceneDocument) => unknown;

function codesOf(change: Change): string[] {
  const changed = crate();
  const after = (change(changed) as SceneDocument | undefined) ?? changed;
  return compareGeometry(worldParts(crate()), worldParts(after)).map(
    ({ code, part }) => `${code} ${part ?? 'all'}`,
  );
}

const layerOf = (document: SceneDocument, mesh: number, of: (mesh: PolygonMesh) => Layer | null) =>
  of(document.meshes[mesh]) as Layer;

describe('geometry that looks the same', () => {
  it.each<[string, Change]>([
    ['as it is', () => undefined],
    ['cut into triangles', (document) => ({ ...document, meshes: document.meshes.map(toTriangles) })],
    [
      'in centimetres, Z up',
      (document) => {
        document.axes = Z_UP;
        document.metresPerUnit = 0.01;
        // x stays, y becomes z, z becomes -y.
        const turned = (values: Layer['values'], factor: number) => {
          for (let index = 0; index < values.length; index += 3)
            [values[index], values[index + 1], values[index + 2]] = [
              values[index],
              -values[index + 2],
              values[index + 1],
            ].map((value) => value * factor);
        };
        for (const mesh of document.meshes) {
          turned(mesh.points, 100);
          turned((mesh.normals as Layer).values, 1);
        }
        document.nodes[1].transform.translation = [50, 0, 60];
      },
    ],
    [
      'with its parts and faces in another order',
      (document) => {
        const [first, second] = document.nodes;
        document.nodes = [{ ...second, parent: -1 }, first];
      },
    ],
    [
      'with a part renamed',
      (document) => {
        document.nodes[1].name = 'Cover_7';
      },
    ],
    [
      'with its parts merged',
      (document) => {
        const merged = box([1, 0.6, 0.4]);
        const lid = document.meshes[1];
        const shifted = lid.points.map((value, i) => value + [0.5, 0.6, 0][i % 3]);
        const join = <T extends Float64Array>(a: ArrayLike<number>, b: ArrayLike<number>) =>
          Float64Array.from([...Array.from(a), ...Array.from(b)]) as T;
        const layer = (a: Layer | null, b: Layer | null): Layer => ({
          ...(a as Layer),
          values: join((a as Layer).values, (b as Layer).values),
        });
        document.meshes = [
          createMesh('all', {
            points: join(merged.points, shifted),
            faceCounts: Uint32Array.from([...merged.faceCounts, ...lid.faceCounts]),
            faceCorners: Uint32Array.from([...merged.faceCorners, ...lid.faceCorners.map((p) => p + 8)]),
            faceMaterial: Int32Array.from([
              ...(merged.faceMaterial as Int32Array),
              ...(lid.faceMaterial as Int32Array),
            ]),
            normals: layer(merged.normals, lid.normals),
            uvSets: [layer(merged.uvSets[0], lid.uvSets[0])],
            colours: [layer(merged.colours[0], lid.colours[0])],
          }),
        ];
        document.nodes = [createNode('Everything', 'mesh', -1, { mesh: 0, materials: [0, 1] })];
      },
    ],
    [
      'within the rounding of writers',
      (document) => {
        for (const mesh of document.meshes)
          mesh.points = mesh.points.map((value) => Math.round(value * 1e6) / 1e6 + 2e-7);
      },
    ],
  ])('%s', (_, change) => {
    expect(codesOf(change)).toEqual([]);
  });
});

describe('geometry that is different is found, where and as what it is', () => {
  it.each<[string, Change, string[]]>([
    [
      'a part is gone',
      (document) => {
        document.nodes.pop();
      },
      ['part.missing Lid'],
    ],
    [
      'a part is there besides',
      (document) => {
        document.nodes.push(createNode('Wedge', 'mesh', -1, { mesh: 1, materials: [0, 1] }));
      },
      ['part.added Wedge'],
    ],
    [
      'a part stands elsewhere',
      (document) => {
        document.nodes[1].transform.translation = [0.5, 0.7, 0];
      },
      ['part.moved Lid'],
    ],
    [
      'a part is turned',
      (document) => {
        document.nodes[1].transform.rotation = [0, 30, 0];
      },
      ['part.moved Lid'],
    ],
    [
      'a corner is moved',
      (document) => {
        document.meshes[0].points[0] += 0.01;
      },
      ['shape.points Crate'],
    ],
    [
      'the unit is another',
      (document) => {
        document.metresPerUnit = 0.01;
      },
      ['model.unit all'],
    ],
    [
      'the axes are others',
      (document) => {
        document.axes = Z_UP;
      },
      ['model.axes all'],
    ],
    [
      'a face is gone',
      (document) => {
        const mesh = document.meshes[0];
        const drop = <T extends Layer | null>(layer: T) =>
          layer && { ...layer, values: layer.values.slice(0, layer.values.length - 4 * layer.size) };
        document.meshes[0] = {
          ...mesh,
          faceCounts: mesh.faceCounts.slice(0, 5),
          faceCorners: mesh.faceCorners.slice(0, 20),
          faceMaterial: (mesh.faceMaterial as Int32Array).slice(0, 5),
          normals: drop(mesh.normals),
          uvSets: mesh.uvSets.map((layer) => drop(layer) as Layer),
          colours: mesh.colours.map((layer) => drop(layer) as Layer),
        };
      },
      [
        'shape.faces Crate',
        'shape.normals Crate',
        'shape.uv Crate',
        'shape.colours Crate',
        'shape.materials Crate',
      ],
    ],
    [
      'faces look the other way',
      (document) => {
        const { faceCorners, faceCounts } = document.meshes[0];
        for (let face = 0; face < faceCounts.length; face += 1)
          faceCorners.subarray(face * 4, face * 4 + 4).reverse();
        for (const of of [
          document.meshes[0].normals,
          ...document.meshes[0].uvSets,
          ...document.meshes[0].colours,
        ] as Layer[]) {
          const { values, size } = of;
          for (let face = 0; face < faceCounts.length; face += 1) {
            const rows = [3, 2, 1, 0].map((k) =>
              values.slice((face * 4 + k) * size, (face * 4 + k + 1) * size),
            );
            rows.forEach((row, k) => values.set(row, (face * 4 + k) * size));
          }
        }
      },
      ['shape.winding Crate'],
    ],
    [
      'normals are bent',
      (document) => {
        layerOf(document, 0, ({ normals }) => normals).values.set([0.6, 0.8, 0]);
      },
      ['shape.normals Crate'],
    ],
    [
      'normals are gone',
      (document) => {
        document.meshes[1].normals = null;
      },
      ['shape.normals Lid'],
    ],
    [
      'UVs are upside down',
      (document) => {
        const { values } = document.meshes[0].uvSets[0];
        for (let index = 1; index < values.length; index += 2) values[index] = 1 - values[index];
      },
      ['shape.uv Crate'],
    ],
    [
      'one UV is off',
      (document) => {
        document.meshes[1].uvSets[0].values[6] += 0.001;
      },
      ['shape.uv Lid'],
    ],
    [
      'a UV set is gone',
      (document) => {
        document.meshes[1].uvSets = [];
      },
      ['shape.uv Lid'],
    ],
    [
      'colours are others',
      (document) => {
        document.meshes[0].colours[0].values[0] += 0.02;
      },
      ['shape.colours Crate'],
    ],
    [
      'colours are clear where they were solid',
      (document) => {
        const [paint] = document.meshes[0].colours;
        const values = Array.from({ length: paint.values.length / 3 }, (_, i) => [
          ...paint.values.subarray(i * 3, i * 3 + 3),
          i === 5 ? 0.9 : 1,
        ]);
        Object.assign(paint, { size: 4, values: Float64Array.from(values.flat()) });
      },
      ['shape.colours Crate'],
    ],
    [
      'materials are exchanged',
      (document) => {
        document.nodes[0].materials = [1, 0];
      },
      ['shape.materials Crate'],
    ],
    [
      'one material is another',
      (document) => {
        document.nodes[1].materials = [0, 2];
      },
      ['shape.materials Lid'],
    ],
    [
      'two faces of one size exchange their materials',
      (document) => {
        (document.meshes[0].faceMaterial as Int32Array).set([0, 0, 0, 1, 1, 0]);
      },
      ['shape.materials Crate'],
    ],
  ])('%s', (_, change, codes) => {
    expect(codesOf(change)).toEqual(codes);
  });

  it('a cube, which looks the same from all sides, is turned until nothing else differs; a real difference stays one', () => {
    const cube = (change: Change = () => undefined) => {
      const document = crate();
      document.meshes = [box([1, 1, 1])];
      document.nodes = [createNode('Cube', 'mesh', -1, { mesh: 0, materials: [0, 1] })];
      document.nodes[0].transform.translation = [-0.5, -0.5, -0.5];
      change(document);
      return document;
    };
    const codes = (change: Change) =>
      compareGeometry(worldParts(cube()), worldParts(cube(change))).map(({ code }) => code);
    expect(codes(() => undefined)).toEqual([]);
    // The same numbers, read with another axis up.
    expect(codes((document) => Object.assign(document, { axes: Z_UP }))).toEqual(['model.axes']);
    const paint = ({ meshes }: SceneDocument) => void meshes[0].uvSets[0].values.set([0.4, 0.4], 8);
    expect(codes(paint)).toEqual(['shape.uv']);
    expect(codes((document) => [paint(document), Object.assign(document, { axes: Z_UP })])).toContain(
      'shape.uv',
    );
  });

  it('parts of one name are matched by their number, which some formats write into the name', () => {
    const twins = (names: string[]) => {
      const document = crate();
      document.nodes = names.map((name, i) =>
        createNode(name, 'mesh', -1, { mesh: i % 2, materials: [0, 1] }),
      );
      document.nodes.forEach((node, i) => Object.assign(node.transform, { translation: [3 * i, 0, 0] }));
      return worldParts(document);
    };
    expect(twins(['node', 'node', 'node_2']).map(({ name }) => name)).toEqual(['node', 'node (2)', 'node_2']);
    expect(compareGeometry(twins(['node', 'node', 'node_2']), twins(['node', 'node (2)', 'node_2']))).toEqual(
      [],
    );
    expect(twins(['Bolt (2)', 'Bolt', 'Bolt']).map(({ name }) => name)).toEqual([
      'bolt (2)',
      'bolt',
      'bolt (3)',
    ]);
  });

  it('a mirrored part looks as its faces turned round would', () => {
    const document = crate();
    document.nodes[1].transform.scale = [-1, 1, 1];
    const baked = crate();
    const mesh = baked.meshes[1];
    mesh.points = mesh.points.map((value, i) => (i % 3 === 0 ? -value : value));
    const flip = (layer: Layer | null, mirror: boolean) => {
      if (!layer) return;
      for (let face = 0; face < 6; face += 1) {
        const rows = [3, 2, 1, 0].map((k) =>
          layer.values.slice((face * 4 + k) * layer.size, (face * 4 + k + 1) * layer.size),
        );
        rows.forEach((row, k) => layer.values.set(row, (face * 4 + k) * layer.size));
      }
      if (mirror) for (let offset = 0; offset < layer.values.length; offset += 3) layer.values[offset] *= -1;
    };
    for (let face = 0; face < 6; face += 1) mesh.faceCorners.subarray(face * 4, face * 4 + 4).reverse();
    flip(mesh.normals, true);
    flip(mesh.uvSets[0], false);
    flip(mesh.colours[0], false);
    expect(compareGeometry(worldParts(document), worldParts(baked))).toEqual([]);
    expect(compareGeometry(worldParts(crate()), worldParts(document)).map(({ code }) => code)).not.toEqual(
      [],
    );
  });

  it('a part with another name is known by its place, and told by its own name', () => {
    const changed = crate();
    Object.assign(changed.nodes[0], { name: 'Chest' });
    Object.assign(changed.nodes[1], { name: 'Cover' });
    expect(compareGeometry(worldParts(crate()), worldParts(changed))).toEqual([]);
    layerOf(changed, 1, ({ uvSets }) => uvSets[0]).values[0] += 0.1;
    expect(
      compareGeometry(worldParts(crate()), worldParts(changed)).map(({ code, part }) => `${code} ${part}`),
    ).toEqual(['shape.uv Lid']);
    // Another name in another place is another part.
    const gone = crate();
    Object.assign(gone.nodes[1], { name: 'Cover' });
    gone.nodes[1].transform.translation = [0.5, 2, 0];
    expect(
      compareGeometry(worldParts(crate()), worldParts(gone)).map(({ code, part }) => `${code} ${part}`),
    ).toEqual(['part.missing Lid', 'part.added Cover']);
  });

  it('a part with another name is another where names count, numbers aside', () => {
    const named = (first: string, second: string) => {
      const [one, two] = [crate(), crate()];
      one.nodes[1].name = first;
      two.nodes[1].name = second;
      return compareGeometry(worldParts(one), worldParts(two), { names: true }).map(({ message }) => message);
    };
    expect(named('Lid', 'Cover')).toEqual(['the part Lid is named Cover']);
    for (const [first, second] of [
      ['Lid', 'lid'],
      ['Lid', 'Lid_2'],
      ['Lid.001', 'Lid_001_2'],
    ])
      expect(named(first, second)).toEqual([]);
  });

  it('tells numbers with what is allowed', () => {
    const changed = crate();
    changed.nodes[1].transform.translation = [0.5, 0.7, 0];
    const [moved] = compareGeometry(worldParts(crate()), worldParts(changed));
    expect(moved.measured).toBeCloseTo(0.1, 9);
    // Of the longest side of both together, 1 and 0.1 metres.
    expect(moved.allowed).toBeCloseTo(1.1e-5, 9);
    changed.nodes[1].transform.translation = [0.5, 0.6, 0];
    changed.metresPerUnit = 0.0254;
    const [unit] = compareGeometry(worldParts(crate()), worldParts(changed));
    expect(unit.measured).toBeCloseTo(0.0254, 9);
  });
});

describe('layers by number', () => {
  it('are told as which set of UVs or colours is not there', () => {
    const changed = crate();
    const extra = crate();
    for (const document of [extra])
      document.meshes[0].uvSets.push({ ...document.meshes[0].uvSets[0], name: 'map2' });
    const told = compareGeometry(worldParts(extra), worldParts(changed)).map(
      ({ code, message }) => `${code}: ${message}`,
    );
    expect(told).toEqual(['shape.uv: Crate: the UV set 2 are not there']);
    changed.meshes[0].colours = [];
    expect(compareGeometry(worldParts(crate()), worldParts(changed)).map(({ message }) => message)).toEqual([
      'Crate: the colours 1 are not there',
    ]);
  });
});

describe('a small part of a large whole', () => {
  /** A bolt of 2 centimetres on a floor of 100 metres. */
  const hall = () => {
    const document = crate();
    document.meshes = [box([100, 0.2, 100]), box([0.02, 0.02, 0.02])];
    return document;
  };

  it('is compared by its own size, as far as single floats tell', () => {
    const against = (from: number, by: number) => {
      const changed = hall();
      const { points } = changed.meshes[1];
      for (let i = from; i < points.length; i += 24) points[i] += by;
      return compareGeometry(worldParts(hall()), worldParts(changed)).map(
        ({ code, part }) => `${code} ${part}`,
      );
    };
    expect(against(3, 2e-5)).toEqual([]);
    expect(against(3, 5e-4)).toEqual(['shape.points Lid']);
  });
});
