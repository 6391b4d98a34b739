import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type Layer, type PolygonMesh, type SceneDocument, Z_UP } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { toTriangles } from '../scene/triangulate.ts';
import { compareGeometry } from './compareGeometry.ts';
import { worldParts } from './worldParts.ts';

/** A box of quads with UVs, normals and colours per corner; its top and bottom have another material. */
function box([w, h, d]: [number, number, number]): PolygonMesh {
  const points = Float64Array.from([0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? w : 0, i & 2 ? h : 0, i & 4 ? d : 0]));
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
    uvSets: [corner('map1', 2, (face, k) => [uv[k][0] / 2 + (face % 2) / 2, uv[k][1] / 3 + Math.floor(face / 2) / 3])],
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
  return compareGeometry(worldParts(crate()), worldParts(after)).map(({ code, part }) => `${code} ${part ?? 'all'}`);
}

const layerOf = (document: SceneDocument, mesh: number, of: (mesh: PolygonMesh) => Layer | null) => of(document.meshes[mesh]) as Layer;

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
            [values[index], values[index + 1], values[index + 2]] = [values[index], -values[index + 2], values[index + 1]].map((value) => value * factor);
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
        const join = <T extends Float64Array>(a: ArrayLike<number>, b: ArrayLike<number>) => Float64Array.from([...Array.from(a), ...Array.from(b)]) as T;
        const layer = (a: Layer | null, b: Layer | null): Layer => ({ ...(a as Layer), values: join((a as Layer).values, (b as Layer).values) });
        document.meshes = [
          createMesh('all', {
            points: join(merged.points, shifted),
            faceCounts: Uint32Array.from([...merged.faceCounts, ...lid.faceCounts]),
            faceCorners: Uint32Array.from([...merged.faceCorners, ...lid.faceCorners.map((p) => p + 8)]),
            faceMaterial: Int32Array.from([...(merged.faceMaterial as Int32Array), ...(lid.faceMaterial as Int32Array)]),
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
        for (const mesh of document.meshes) mesh.points = mesh.points.map((value) => Math.round(value * 1e6) / 1e6 + 2e-7);
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
        const drop = <T extends Layer | null>(layer: T) => layer && { ...layer, values: layer.values.slice(0, layer.values.length - 4 * layer.size) };
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
      ['shape.faces Crate', 'shape.normals Crate', 'shape.uv Crate', 'shape.colours Crate', 'shape.materials Crate'],
    ],
    [
      'faces look the other way',
      (document) => {
        const { faceCorners, faceCounts } = document.meshes[0];
        for (let face = 0; face < faceCounts.length; face += 1) faceCorners.subarray(face * 4, face * 4 + 4).reverse();
        for (const of of [document.meshes[0].normals, ...document.meshes[0].uvSets, ...document.meshes[0].colours] as Layer[]) {
          const { values, size } = of;
          for (let face = 0; face < faceCounts.length; face += 1) {
            const rows = [3, 2, 1, 0].map((k) => values.slice((face * 4 + k) * size, (face * 4 + k + 1) * size));
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

  it('a mirrored part looks as its faces turned round would', () => {
    const document = crate();
    document.nodes[1].transform.scale = [-1, 1, 1];
    const baked = crate();
    const mesh = baked.meshes[1];
    mesh.points = mesh.points.map((value, i) => (i % 3 === 0 ? -value : value));
    const flip = (layer: Layer | null, mirror: boolean) => {
      if (!layer) return;
      for (let face = 0; face < 6; face += 1) {
        const rows = [3, 2, 1, 0].map((k) => layer.values.slice((face * 4 + k) * layer.size, (face * 4 + k + 1) * layer.size));
        rows.forEach((row, k) => layer.values.set(row, (face * 4 + k) * layer.size));
      }
      if (mirror) for (let offset = 0; offset < layer.values.length; offset += 3) layer.values[offset] *= -1;
    };
    for (let face = 0; face < 6; face += 1) mesh.faceCorners.subarray(face * 4, face * 4 + 4).reverse();
    flip(mesh.normals, true);
    flip(mesh.uvSets[0], false);
    flip(mesh.colours[0], false);
    expect(compareGeometry(worldParts(document), worldParts(baked))).toEqual([]);
    expect(compareGeometry(worldParts(crate()), worldParts(document)).map(({ code }) => code)).not.toEqual([]);
  });

  it('a part with another name is known by its place, and told by its own name', () => {
    const changed = crate();
    Object.assign(changed.nodes[0], { name: 'Chest' });
    Object.assign(changed.nodes[1], { name: 'Cover' });
    expect(compareGeometry(worldParts(crate()), worldParts(changed))).toEqual([]);
    layerOf(changed, 1, ({ uvSets }) => uvSets[0]).values[0] += 0.1;
    expect(compareGeometry(worldParts(crate()), worldParts(changed)).map(({ code, part }) => `${code} ${part}`)).toEqual(['shape.uv Lid']);
    // Another name in another place is another part.
    const gone = crate();
    Object.assign(gone.nodes[1], { name: 'Cover' });
    gone.nodes[1].transform.translation = [0.5, 2, 0];
    expect(compareGeometry(worldParts(crate()), worldParts(gone)).map(({ code, part }) => `${code} ${part}`)).toEqual(['part.missing Lid', 'part.added Cover']);
  });

  it('tells numbers with what is allowed', () => {
    const changed = crate();
    changed.nodes[1].transform.translation = [0.5, 0.7, 0];
    const [moved] = compareGeometry(worldParts(crate()), worldParts(changed));
    expect(moved.measured).toBeCloseTo(0.1, 9);
    expect(moved.allowed).toBeCloseTo(1.6e-5, 9);
    changed.nodes[1].transform.translation = [0.5, 0.6, 0];
    changed.metresPerUnit = 0.0254;
    const [unit] = compareGeometry(worldParts(crate()), worldParts(changed));
    expect(unit.measured).toBeCloseTo(0.0254, 9);
  });
});

/** A plate of one mesh in metres, from corners and faces by number. */
function plate(points: number[][], faces: number[][], materials: number[] = faces.map(() => 0)): SceneDocument {
  const document = createDocument('obj', '');
  document.metresPerUnit = 1;
  document.materials = ['Wood', 'Iron'].map((name) => createMaterial(name, 'metalRough'));
  document.meshes = [
    createMesh('plate', {
      points: Float64Array.from(points.flat()),
      faceCounts: Uint32Array.from(faces, ({ length }) => length),
      faceCorners: Uint32Array.from(faces.flat()),
      faceMaterial: Int32Array.from(materials),
    }),
  ];
  document.nodes = [createNode('Plate', 'mesh', -1, { mesh: 0, materials: [0, 1] })];
  return document;
}
const apartIn = (a: SceneDocument, b: SceneDocument) => compareGeometry(worldParts(a), worldParts(b)).map(({ code, message }) => `${code}: ${message}`);

describe('the area of faces', () => {
  // Far from the middle of the scene, two metres by three.
  const corners = [
    [10, 20, 30],
    [12, 20, 30],
    [12, 20, 33],
    [10, 20, 33],
  ];
  const whole = plate(corners, [[0, 1, 2, 3]]);

  it('is told in square metres, whichever of both is larger', () => {
    const doubled = plate(corners, [
      [0, 1, 2, 3],
      [0, 1, 2, 3],
    ]);
    expect(apartIn(whole, doubled)[0]).toBe('shape.faces: Plate: its area is 12.000 square metres, not 6.0000');
    expect(apartIn(doubled, whole)[0]).toBe('shape.faces: Plate: its area is 6.0000 square metres, not 12.000');
    expect(apartIn(whole, doubled).at(-1)).toBe('shape.materials: Plate: Wood covers 12.00 square metres, not 6.000');
  });

  it('counts by material, and tells one that covers nothing any more', () => {
    const halves = (materials: number[]) =>
      plate(
        corners,
        [
          [0, 1, 2],
          [0, 2, 3],
        ],
        materials,
      );
    expect(apartIn(halves([0, 1]), halves([0, 0]))).toEqual(['shape.materials: Plate: Wood covers 6.000 square metres, not 3.000']);
    expect(apartIn(halves([1, 1]), halves([0, 0]))).toEqual(['shape.materials: Plate: Iron covers 0.000 square metres, not 6.000']);
    expect(apartIn(halves([0, 1]), halves([1, 0]))).toEqual(['shape.materials: Plate: faces at 2 places have other materials']);
  });

  it('of a quad that is not plane may be that of either cut, and of nothing else', () => {
    const bent = corners.map(([x, y, z], i) => [x, y + (i === 2 ? 1.5 : 0), z]);
    const quad = plate(bent, [[0, 1, 2, 3]]);
    const cuts = [
      [
        [0, 1, 2],
        [0, 2, 3],
      ],
      [
        [0, 1, 3],
        [1, 2, 3],
      ],
    ].map((faces) => plate(bent, faces));
    for (const cut of cuts)
      for (const [a, b] of [
        [quad, cut],
        [cut, quad],
      ])
        expect(apartIn(a, b).filter((text) => text.startsWith('shape.faces'))).toEqual([]);
    const half = plate(bent, [
      [0, 1, 2],
      [0, 1, 2],
      [0, 2, 3],
    ]);
    expect(apartIn(quad, half)[0]).toMatch(/^shape\.faces: Plate: its area is/);
  });

  it('is weighed by the angles at corners, so that a cut turns nothing round', () => {
    // A strip of three quads in a bow: where they meet, the facing is the same however each is cut.
    const bow = [0, 1, 2, 3].flatMap((i) => [
      [10 + i, 20 + [0, 0.8, 0.8, 0][i], 30],
      [10 + i, 20 + [0, 0.8, 0.8, 0][i], 31],
    ]);
    const quads = [0, 2, 4].map((i) => [i, i + 1, i + 3, i + 2]);
    const triangles = (odd: boolean) =>
      quads.flatMap(([a, b, c, d]) =>
        odd
          ? [
              [a, b, c],
              [a, c, d],
            ]
          : [
              [a, b, d],
              [b, c, d],
            ],
      );
    for (const odd of [false, true]) expect(apartIn(plate(bow, quads), plate(bow, triangles(odd)))).toEqual([]);
  });
});

describe('a part that stands elsewhere', () => {
  const corners = [
    [0, 0, 0],
    [2, 0, 0],
    [2, 1, 0],
    [0, 1, 0],
  ];
  const raised = corners.map(([x, y, z]) => [x, y, z + 4]);

  it('is moved where it is the same shape, and changed where it has more corners or others', () => {
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), plate(raised, [[0, 1, 2, 3]]))).toEqual(['part.moved: Plate stands elsewhere, or is turned']);
    const fewer = plate(raised, [[0, 1, 2]]);
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), fewer)).toEqual(['shape.points: Plate: 4 of 4 places are not there, 3 are there besides']);
    expect(apartIn(fewer, plate(corners, [[0, 1, 2, 3]]))).toEqual(['shape.points: Plate: 3 of 3 places are not there, 4 are there besides']);
    const longer = plate(
      raised.map(([x, y, z]) => [x * 1.5, y, z]),
      [[0, 1, 2, 3]],
    );
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), longer)).toEqual(['shape.points: Plate: 4 of 4 places are not there, 4 are there besides']);
  });
});

describe('layers by number', () => {
  it('are told as which set of UVs or colours is not there', () => {
    const changed = crate();
    const extra = crate();
    for (const document of [extra]) document.meshes[0].uvSets.push({ ...document.meshes[0].uvSets[0], name: 'map2' });
    const told = compareGeometry(worldParts(extra), worldParts(changed)).map(({ code, message }) => `${code}: ${message}`);
    expect(told).toEqual(['shape.uv: Crate: the UV set 2 are not there']);
    changed.meshes[0].colours = [];
    expect(compareGeometry(worldParts(crate()), worldParts(changed)).map(({ message }) => message)).toEqual(['Crate: the colours 1 are not there']);
  });
});

describe('which way faces look', () => {
  // A roof of two slopes over a floor, so that what is shared by both slopes points up.
  const roof = [
    [0, 0, 0],
    [2, 0, 0],
    [2, 0, 3],
    [0, 0, 3],
    [1, 1, 0],
    [1, 1, 3],
  ];
  const slopes = [
    [0, 3, 5, 4],
    [4, 5, 2, 1],
  ];
  const back = (face: number[]) => [...face].reverse();

  it('counts the places where they look the other way, each slope and both', () => {
    const told = (faces: number[][]) => apartIn(plate(roof, slopes), plate(roof, faces)).filter((text) => text.startsWith('shape.winding'));
    expect(told(slopes)).toEqual([]);
    expect(told(slopes.map(back))).toEqual(['shape.winding: Plate: faces at 6 of 6 places look the other way']);
    // The ridge then points to one side: no more up.
    expect(told([back(slopes[0]), slopes[1]])).toEqual(['shape.winding: Plate: faces at 4 of 6 places look the other way']);
  });

  it('says nothing of places where faces cancel out each other', () => {
    const doubled = plate(roof, [...slopes, ...slopes.map(back)]);
    expect(apartIn(doubled, plate(roof, [...slopes.map(back), ...slopes]))).toEqual([]);
  });

  it('allows triangles without area to be left out, and no others', () => {
    const thin = [0, 4, 4];
    const flat = plate(roof, [...slopes, thin]);
    expect(apartIn(flat, plate(roof, slopes))).toEqual([]);
    expect(apartIn(plate(roof, slopes), flat)).toEqual([]);
    const less = apartIn(plate(roof, [...slopes, [0, 1, 4]]), plate(roof, slopes));
    expect(less[0]).toMatch(/^shape\.faces/);
  });
});
