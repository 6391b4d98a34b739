import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { compareGeometry } from './compareGeometry.ts';
import { worldParts } from './worldParts.ts';

/** A plate of one mesh in metres, from corners and faces by number. */
function plate(
  points: number[][],
  faces: number[][],
  materials: number[] = faces.map(() => 0),
): SceneDocument {
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
const apartIn = (a: SceneDocument, b: SceneDocument) =>
  compareGeometry(worldParts(a), worldParts(b)).map(({ code, message }) => `${code}: ${message}`);

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
    expect(apartIn(whole, doubled)[0]).toBe(
      'shape.faces: Plate: its area is 12.000 square metres, not 6.0000',
    );
    expect(apartIn(doubled, whole)[0]).toBe(
      'shape.faces: Plate: its area is 6.0000 square metres, not 12.000',
    );
    expect(apartIn(whole, doubled).at(-1)).toBe(
      'shape.materials: Plate: Wood covers 12.00 square metres, not 6.000',
    );
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
    expect(apartIn(halves([0, 1]), halves([0, 0]))).toEqual([
      'shape.materials: Plate: Wood covers 6.000 square metres, not 3.000',
    ]);
    expect(apartIn(halves([1, 1]), halves([0, 0]))).toEqual([
      'shape.materials: Plate: Iron covers 0.000 square metres, not 6.000',
    ]);
    expect(apartIn(halves([0, 1]), halves([1, 0]))).toEqual([
      'shape.materials: Plate: faces at 2 places have other materials',
    ]);
  });

  it.each([1, 2])(
    'of a quad that is not plane, bent at corner %d, may be that of either cut, and of nothing else',
    (raised) => {
      const bent = corners.map(([x, y, z], i) => [x, y + (i === raised ? 1.5 : 0), z]);
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
    },
  );

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
    for (const odd of [false, true])
      expect(apartIn(plate(bow, quads), plate(bow, triangles(odd)))).toEqual([]);
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
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), plate(raised, [[0, 1, 2, 3]]))).toEqual([
      'part.moved: Plate stands elsewhere, or is turned',
    ]);
    const fewer = plate(raised, [[0, 1, 2]]);
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), fewer)).toEqual([
      'shape.points: Plate: 4 of 4 places are not there, 3 are there besides',
    ]);
    expect(apartIn(fewer, plate(corners, [[0, 1, 2, 3]]))).toEqual([
      'shape.points: Plate: 3 of 3 places are not there, 4 are there besides',
    ]);
    const longer = plate(
      raised.map(([x, y, z]) => [x * 1.5, y, z]),
      [[0, 1, 2, 3]],
    );
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), longer)).toEqual([
      'shape.points: Plate: 4 of 4 places are not there, 4 are there besides',
    ]);
    // One corner a little farther out than the others moved: the middle of all is as far from most as before.
    const bent = plate(
      raised.map(([x, y, z], k) => (k === 2 ? [x + 0.001, y + 0.002, z] : [x, y, z])),
      [[0, 1, 2, 3]],
    );
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), bent)[0]).toMatch(/^shape.points/);
    // What single floats make of it is nothing.
    const rounded = plate(
      raised.map(([x, y, z]) => [x + 3e-5, y, z - 2e-5]),
      [[0, 1, 2, 3]],
    );
    expect(apartIn(plate(corners, [[0, 1, 2, 3]]), rounded)).toEqual([
      'part.moved: Plate stands elsewhere, or is turned',
    ]);
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
    const told = (faces: number[][]) =>
      apartIn(plate(roof, slopes), plate(roof, faces)).filter((text) => text.startsWith('shape.winding'));
    expect(told(slopes)).toEqual([]);
    expect(told(slopes.map(back))).toEqual([
      'shape.winding: Plate: faces at 6 of 6 places look the other way',
    ]);
    // The ridge then points to one side: no more up.
    expect(told([back(slopes[0]), slopes[1]])).toEqual([
      'shape.winding: Plate: faces at 4 of 6 places look the other way',
    ]);
  });

  it('says nothing of faces that are not plane, however they are cut, unless they are turned', () => {
    // One corner of a square is lifted by its side; cut along either diagonal.
    const lifted = [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 1],
      [0, 1, 0],
    ];
    const cuts = [
      [
        [0, 1, 2],
        [0, 2, 3],
      ],
      [
        [0, 1, 3],
        [1, 2, 3],
      ],
    ];
    for (const cut of cuts) {
      expect(apartIn(plate(lifted, [[0, 1, 2, 3]]), plate(lifted, cut))).toEqual([]);
      expect(apartIn(plate(lifted, [[0, 1, 2, 3]]), plate(lifted, cut.map(back)))).toEqual([
        'shape.winding: Plate: faces at 4 of 4 places look the other way',
      ]);
    }
  });

  it('does not judge a face that is crumpled', () => {
    const crumpled = [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 4],
      [0, 1, 0],
    ];
    const cut = [
      [0, 1, 3],
      [1, 2, 3],
    ];
    expect(apartIn(plate(crumpled, [[0, 1, 2, 3]]), plate(crumpled, cut))).toEqual([]);
    // Nor where it seems to be turned.
    expect(apartIn(plate(crumpled, [[0, 1, 2, 3]]), plate(crumpled, cut.map(back)))).toEqual([]);
  });

  it('minds no corner that is as little off a straight edge as its face is off its plane', () => {
    // Two tenths of a millimetre aside, one up: alone, its triangle leans by a quarter of a right angle.
    const points = [
      [0, 0, 0],
      [0.6, -2e-4, 1e-4],
      [1.2, 0, 0],
      [1.2, 1, 0],
      [0, 1, 0],
    ];
    const cut = [
      [0, 1, 2],
      [0, 2, 3],
      [0, 3, 4],
    ];
    expect(apartIn(plate(points, [[0, 1, 2, 3, 4]]), plate(points, cut))).toEqual([]);
  });

  it('minds the hollow corner of a plane face, and one on a straight edge', () => {
    // An arrow that is cut in its notch, and a square with a corner in the middle of a side.
    const arrow = [
      [0, 0, 0],
      [2, 1, 0],
      [0, 2, 0],
      // Deep: 293 degrees lie inside, 67 outside.
      [1.5, 1, 0],
    ];
    const halves = [
      [0, 1, 3],
      [1, 2, 3],
    ];
    const whole = plate(arrow, [[0, 1, 2, 3]]);
    expect(apartIn(plate(arrow, halves), whole)).toEqual([]);
    expect(apartIn(whole, plate(arrow, halves.map(back)))).toEqual([
      'shape.winding: Plate: faces at 4 of 4 places look the other way',
    ]);
    const square = [
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
      [2, 2, 0],
      [0, 2, 0],
    ];
    const thin = [
      [0, 1, 2],
      [0, 2, 3],
      [0, 3, 4],
    ];
    expect(apartIn(plate(square, [[0, 1, 2, 3, 4]]), plate(square, thin))).toEqual([]);
  });

  it('says nothing of an outline that crosses itself, which is cut anyhow', () => {
    const tie = [
      [0, 0, 0],
      [2, 2, 0],
      [2, 0, 0],
      [0, 3, 0],
    ];
    const cut = [
      [0, 1, 2],
      [0, 2, 3],
    ];
    const told = apartIn(plate(tie, [[0, 1, 2, 3]]), plate(tie, cut.map(back)));
    expect(told.filter((text) => text.startsWith('shape.winding'))).toEqual([]);
  });

  it('allows an outline that is bent round more than fans tell, and other shapes less', () => {
    const steps = 10;
    const arc = (height: number, k: number) => [
      Math.cos((Math.PI * k) / steps / 2),
      height,
      Math.sin((Math.PI * k) / steps / 2),
    ];
    const ring = Array.from({ length: steps + 1 }, (_, k) => k);
    const points = [...ring.map((k) => arc(0, k)), ...[...ring].reverse().map((k) => arc(1, k))];
    const whole = plate(points, [points.map((_, i) => i)]);
    // Strip by strip, as the wall stands, and by a fan.
    const last = points.length - 1;
    const strips = ring.slice(1).flatMap((k) => [
      [k - 1, k, last - k],
      [k - 1, last - k, last - k + 1],
    ]);
    expect(apartIn(whole, plate(points, strips))).toEqual([]);
    const fan = points.slice(2).map((_, i) => [0, i + 1, i + 2]);
    expect(apartIn(whole, plate(points, fan))).toEqual([]);
    expect(
      apartIn(whole, plate(points, [...strips, [0, steps, 2], [0, steps, 4], [0, steps, 6]]))[0],
    ).toMatch(/^shape\.faces/);
  });

  it('says nothing of an outline that passes through its own side', () => {
    // A notch whose tip comes out at the far side: its corners lie upon that side, and no sides cross.
    const outline = [
      [0, 0],
      [4, 0],
      [4, 2],
      [5, 3],
      [6, 2],
      [6, 0],
      [10, 0],
      [10, 2],
      [0, 2],
    ].map(([x, y]) => [x, y, 0]);
    const ring = outline.map((_, i) => i);
    const fan = ring.slice(2).map((k) => [0, k - 1, k]);
    const told = apartIn(plate(outline, [ring]), plate(outline, fan.map(back)));
    expect(told.filter((text) => text.startsWith('shape.winding'))).toEqual([]);
    // The same, no longer plane.
    const bent = outline.map(([x, y]) => [x, y, 0.1 * x * (10 - x) * 0.2]);
    const toldBent = apartIn(plate(bent, [ring]), plate(bent, fan.map(back)));
    expect(toldBent.filter((text) => text.startsWith('shape.winding'))).toEqual([]);
    // Without its tip it is a sound one.
    const sound = outline.map(([x, y]) => [x, Math.min(y, x === 5 ? 1 : 2), 0]);
    expect(apartIn(plate(sound, [ring]), plate(sound, [back(ring)]))).toEqual([
      'shape.winding: Plate: faces at 9 of 9 places look the other way',
    ]);
  });

  it('says nothing of a sliver between corners that nearly meet', () => {
    // A wall below a corner that was doubled: which side of it is the front is a matter of rounding.
    const at = (off: number) => [
      [0, 0, 0],
      [4, 0, 0],
      [4, 0, 3],
      [2, 0, 3],
      [2 + 2e-6, off, 3],
      [0, 0, 3],
      [2, -1, 3],
      [2 + 2e-6, off - 1, 3],
    ];
    const faces = [
      [0, 1, 2, 4, 3, 5],
      [3, 4, 7, 6],
    ];
    expect(apartIn(plate(at(1e-6), faces), plate(at(1e-6), [faces[0], back(faces[1])]))).toEqual([]);
  });

  it('says nothing of bent faces back to back, whichever way each is cut', () => {
    // Two squares beside each other whose corners stand up in turn.
    const points = [0, 1].flatMap((y) => [0, 1, 2].map((x) => [x, y, (x + y) % 2 ? 0.3 : 0]));
    const squares = [
      [0, 1, 4, 3],
      [1, 2, 5, 4],
    ];
    const one = squares.flatMap(([a, b, c, d]) => [
      [a, b, c],
      [a, c, d],
    ]);
    const other = squares.flatMap(([a, b, c, d]) => [
      [a, b, d],
      [b, c, d],
    ]);
    const sides = plate(points, [...squares, ...one.map(back)]);
    expect(apartIn(sides, plate(points, [...one, ...other.map(back)]))).toEqual([]);
    expect(apartIn(sides, plate(points, [...other, ...one.map(back)]))).toEqual([]);
  });

  it('says nothing of one corner alone, which no face that is turned has', () => {
    // Three corners of a quad lie in a line: cut there, one of its triangles looks nowhere.
    const points = [
      [0, 0, 0],
      [1, -0.12, 0.47],
      [-0.36, 0, 0],
      [-1.89, 0, 0],
      [-1.89, 0, 1.1],
      [-0.36, 0, 1.1],
    ];
    const quads = [
      [0, 1, 2, 3],
      [4, 5, 2, 3],
    ];
    const cut = [
      [0, 1, 2],
      [0, 2, 3],
      [4, 5, 2],
      [4, 2, 3],
    ];
    expect(apartIn(plate(points, quads), plate(points, cut))).toEqual([]);
  });

  it('minds no angles where a face is deeper than its short sides tell', () => {
    // A sheet with rounded corners on a slope, in thousandths.
    const round = (value: number) => Math.round(value * 1000) / 1000;
    const points = [0, 1, 2, 3].flatMap((corner) =>
      [0, 1, 2, 3, 4, 5].map((step) => {
        const angle = ((corner + step / 5) * Math.PI) / 2;
        const [x, y] = [
          (corner === 1 || corner === 2 ? -12 : 12) + 0.5 * Math.cos(angle),
          (corner > 1 ? -5 : 5) + 0.5 * Math.sin(angle),
        ];
        return [round(x), round(y), round(x * 0.0648)];
      }),
    );
    const ring = points.map((_, i) => i);
    const fan = ring.slice(2).map((k) => [0, k - 1, k]);
    expect(apartIn(plate(points, [ring]), plate(points, fan))).toEqual([]);
    const ears = ring.slice(0, -2).map((k) => [k, k + 1, ring.length - 1]);
    expect(apartIn(plate(points, [ring]), plate(points, ears))).toEqual([]);
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

describe('a model whose corners come in the same order', () => {
  const strip = [0, 1, 2, 3, 4, 5, 6].map((x) => [x, (x * x) / 8, 0]);
  // The same seven corners, divided among two faces in another way.
  const first = plate(strip, [
    [0, 1, 2],
    [3, 4, 5, 6],
  ]);

  it('is another where its faces are divided otherwise', () => {
    const second = plate(strip, [
      [0, 1, 2, 3],
      [4, 5, 6],
    ]);
    expect(apartIn(first, second)).not.toEqual([]);
    expect(apartIn(first, first)).toEqual([]);
  });

  it('is another where one corner is off by more than a hundred-thousandth of the whole', () => {
    const moved = (by: number) =>
      plate(
        strip.map(([x, y, z], i) => [x, y, z + (i === 4 ? by : 0)]),
        [
          [0, 1, 2],
          [3, 4, 5, 6],
        ],
      );
    // Six metres long: 0.06 millimetres.
    expect(apartIn(first, moved(5.5e-5))).toEqual([]);
    expect(apartIn(first, moved(6.5e-5))).not.toEqual([]);
  });
});
