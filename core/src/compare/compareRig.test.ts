import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { riggedCrane } from '../test/rigged.ts';
import { compareHierarchy } from './compareHierarchy.ts';
import { compareRig } from './compareRig.ts';
import { posedPoints, poseOf } from './posed.ts';

const codes = (change: (document: SceneDocument) => void) => {
  const changed = riggedCrane();
  change(changed);
  return compareRig(riggedCrane(), changed).map(({ code, part }) => (part ? `${code} ${part}` : code));
};

describe('a pose', () => {
  const entryAt = (document: SceneDocument, point: number, clip = 0, time = 0) => [
    ...posedPoints(document, 4, poseOf(document, document.clips[clip], time), [point]),
  ];
  /** A turn about Y by 30 degrees and the crane's place: what stands above every part. */
  const placed = ([x, y, z]: number[]) => {
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    return [1 + c * x + s * z, y, 2 - s * x + c * z];
  };
  const near = (found: number[], expected: number[]) =>
    found.forEach((value, k) => expect(value).toBeCloseTo(expected[k], 9));

  it('at rest is where the points stand', () => {
    near(entryAt(riggedCrane(), 7), placed([0.4, 3, 0]));
  });

  it('bends about the joints by their weights', () => {
    // At one second Mid, which stands at height 1, is turned by 40 degrees about Z.
    const turn = (40 * Math.PI) / 180;
    const bent = ([x, y]: number[]) => [
      Math.cos(turn) * x - Math.sin(turn) * (y - 1),
      1 + Math.sin(turn) * x + Math.cos(turn) * (y - 1),
      0,
    ];
    near(entryAt(riggedCrane(), 7, 0, 1), placed(bent([0.4, 3])));
    // Half on Root, which stays, and half on Mid.
    const [stays, turned] = [[0, 1, 0], bent([0, 1])];
    near(entryAt(riggedCrane(), 2, 0, 1), placed(stays.map((value, k) => (value + turned[k]) / 2)));
  });

  it('has points that no joint moves where the part is, in metres', () => {
    const document = riggedCrane();
    Object.assign(document.meshes[0].influences ?? {}, { weights: new Float32Array(12) });
    near(entryAt(document, 7), placed([0.4, 3, 0]));
    near(
      entryAt(document, 7, 1, 0.5),
      placed([0.4, 3, 0]).map((value, k) => value + [0, 0.4, 0][k]),
    );
  });

  it('moves with its shapes and with what it hangs on', () => {
    const document = riggedCrane();
    document.meshes[0].shapes[1].weight = 0.5;
    near(entryAt(document, 6), placed([0, 3 - 0.15, 0]));
    near(
      entryAt(document, 0, 1, 0.5),
      placed([0, 0, 0]).map((value, k) => value + [0, 0.4, 0][k]),
    );
  });
});

describe('what moves a model', () => {
  it('is the same as itself, and as itself with its points in another order', () => {
    expect(codes(() => {})).toEqual([]);
    expect(
      codes(({ clips, skins }) => {
        clips.reverse();
        skins[0].name = 'other';
      }),
    ).toEqual([]);
  });

  it.each<[string, (document: SceneDocument) => void, string[]]>([
    [
      'a skin is gone',
      ({ nodes }) => void Object.assign(nodes[4], { skin: -1 }),
      ['rig.skin Jib', 'rig.clip Jib', 'rig.clip Jib'],
    ],
    [
      'a weight is another',
      ({ meshes }) => void meshes[0].influences?.weights.set([0.9, 0.1], 4),
      ['rig.skin Jib', 'rig.clip Jib'],
    ],
    ['joints are exchanged', ({ skins }) => void skins[0].joints.reverse(), ['rig.skin Jib', 'rig.clip Jib']],
    [
      'a joint has another name',
      ({ nodes }) => void Object.assign(nodes[2], { name: 'Middle' }),
      ['rig.skin Jib'],
    ],
    [
      'a bind matrix is another',
      ({ skins }) => void skins[0].inverseBind.set([0.3], 16 + 12),
      ['rig.skin Jib'],
    ],
    ['a shape is gone', ({ meshes }) => void meshes[0].shapes.pop(), ['rig.morph Jib']],
    [
      'a shape leads elsewhere',
      ({ meshes }) => void meshes[0].shapes[0].offsets.fill(0.2, 0, 1),
      ['rig.morph Jib'],
    ],
    [
      'a shape stands in',
      ({ meshes }) => void Object.assign(meshes[0].shapes[0], { weight: 0.5 }),
      ['rig.morph Jib'],
    ],
    [
      'a shape turns no normals any more',
      ({ meshes }) => void Object.assign(meshes[0].shapes[0], { normalOffsets: null }),
      ['rig.morph Jib'],
    ],
    [
      'a shape turns its normals the other way',
      ({ meshes }) =>
        void Object.assign(meshes[0].shapes[0], { normalOffsets: Float64Array.of(0, -1, 0, 0, -1, 0) }),
      ['rig.morph Jib'],
    ],
    [
      'a shape is added',
      ({ meshes }) => void meshes[0].shapes.push({ ...meshes[0].shapes[0], name: 'twist' }),
      ['rig.morph Jib'],
    ],
    ['a clip is added', ({ clips }) => void clips.push({ ...clips[0], name: 'idle' }), ['rig.clip idle']],
    ['a clip is gone', ({ clips }) => void clips.pop(), ['rig.clip lift']],
    [
      'a clip is longer',
      ({ clips }) => void Object.assign(clips[1].tracks[0].times, { 1: 1.5 }),
      ['rig.clip lift'],
    ],
    [
      'a joint turns the other way',
      ({ clips }) => void Object.assign(clips[0].tracks[0].values, { 5: -40 }),
      ['rig.clip Jib'],
    ],
    [
      'a node goes elsewhere',
      ({ clips }) => void Object.assign(clips[0].tracks[1].values, { 4: 1.4 }),
      ['rig.clip Hook'],
    ],
    [
      'one shape leads where the other does',
      ({ meshes }) => void Object.assign(meshes[0].shapes[1], { ...meshes[0].shapes[0], name: 'sag' }),
      ['rig.morph Jib'],
    ],
  ])('is found where %s', (_, change, expected) => {
    const found = codes(change);
    for (const code of expected) expect(found).toContain(code);
  });
});

describe('what is shown and hidden', () => {
  const blinking = (start: number, values: number[], more: (document: SceneDocument) => void = () => {}) => {
    const document = riggedCrane();
    const times = Float64Array.from(values, (_, i) => start + (i * 2) / (values.length - 1));
    document.clips = [
      {
        name: 'blink',
        start,
        end: start + 2,
        tracks: [
          { node: 4, path: 'visible', times, values: Float64Array.from(values), interpolation: 'step' },
        ],
      },
    ];
    more(document);
    return document;
  };
  const told = (a: SceneDocument, b: SceneDocument) =>
    compareRig(a, b).map(({ code, part, message }) => `${code} ${part}: ${message}`);

  it('is looked at wherever both have a key, so that one that jumps for a moment is found', () => {
    const jumping = (lift: number) => (document: SceneDocument) => {
      const times = Float64Array.from({ length: 41 }, (_, i) => i / 20);
      const values = Float64Array.from({ length: 123 }, (_, k) => [0.5, 2, 0][k % 3] + (k === 22 ? lift : 0));
      document.clips[0].tracks[1] = { ...document.clips[0].tracks[1], times, values };
    };
    const [a, b] = [riggedCrane(), riggedCrane()];
    jumping(0)(a);
    jumping(0.5)(b);
    expect(compareRig(a, b)).toMatchObject([{ code: 'rig.clip', part: 'Hook' }]);
    expect(compareRig(a, b)[0].measured).toBeCloseTo(0.5, 5);
    jumping(0)(b);
    expect(compareRig(a, b)).toEqual([]);
    // Some files begin their clips later.
    jumping(0.5)(b);
    const later = structuredClone(b);
    for (const { times } of later.clips[0].tracks) for (let i = 0; i < times.length; i += 1) times[i] += 3.01;
    for (const [one, other] of [
      [a, later],
      [later, a],
    ])
      expect(compareRig(one, other).map(({ part, measured }) => [part, measured])).toEqual([
        ['Hook', expect.closeTo(0.5, 5)],
      ]);
    expect(compareRig(b, later)).toEqual([]);
    // Between keys of its own each format goes its own way.
    jumping(0.5)(a);
    const still = riggedCrane();
    still.clips[0].tracks[1].values.set([0.5, 2, 0, 0.5, 2, 0]);
    expect(compareRig(a, still)).toEqual([]);
  });

  it('is met clip by clip in their order where several have one name', () => {
    const twice = (first: number[], second: number[]) => {
      const document = blinking(0, first);
      document.clips.push(...blinking(0, second).clips);
      return document;
    };
    expect(told(twice([1, 0, 1], [1, 1, 0]), twice([1, 0, 1], [1, 1, 0]))).toEqual([]);
    expect(told(twice([1, 0, 1], [1, 1, 0]), twice([1, 0, 1], [1, 0, 1]))).toHaveLength(1);
  });

  it('is met by its length where a format keeps one clip and no name', () => {
    const [still, moving] = [blinking(0, [1]), blinking(0, [1, 0, 1])];
    const kept = blinking(0, [1, 0, 1]);
    kept.clips[0].name = 'animation';
    still.clips[0].name = 'rest';
    still.clips.push(...moving.clips);
    expect(compareRig(still, kept).map(({ part, message }) => [part, message])).toEqual([
      ['rest', 'the clip rest is not there'],
    ]);
    kept.clips[0].tracks[0].times = Float64Array.of(0, 1, 5);
    still.clips.shift();
    expect(compareRig(still, kept).map(({ part }) => part)).toEqual([still.clips[0].name]);
  });

  it('has the names of its clips where names count and the formats have them', () => {
    const renamed = blinking(0, [1, 0, 1]);
    renamed.clips[0].name = 'Idle';
    const names = (b: SceneDocument) =>
      compareRig(blinking(0, [1, 0, 1]), b, { names: true }).map(({ code, message }) => `${code} ${message}`);
    expect(names(blinking(0, [1, 0, 1]))).toEqual([]);
    expect(names(renamed)).toEqual([`rig.clip the clip ${blinking(0, []).clips[0].name} is named Idle`]);
    expect(told(blinking(0, [1, 0, 1]), renamed)).toEqual([]);
    expect(names({ ...renamed, format: 'usd' })).toEqual([]);
  });

  it('counts from the beginning of each clip', () => {
    expect(told(blinking(0, [1, 0, 1]), blinking(0, [1, 0, 1]))).toEqual([]);
    expect(told(blinking(0, [1, 0, 1]), blinking(3, [1, 0, 1]))).toEqual([]);
    expect(told(blinking(3, [1, 0, 1]), blinking(0, [1, 0, 1]))).toEqual([]);
  });

  it('is told where it is otherwise, or not at all', () => {
    const text = 'rig.clip Jib: blink: Jib is shown and hidden otherwise';
    expect(told(blinking(0, [1, 0, 1]), blinking(0, [1, 1, 1]))).toEqual([text]);
    expect(told(blinking(3, [1, 0, 1]), blinking(0, [0, 1, 1]))).toEqual([text]);
    const turning = {
      node: 5,
      path: 'rotation' as const,
      times: Float64Array.of(0, 2),
      values: Float64Array.of(10, 0, 20, 10, 0, 20),
      interpolation: 'linear' as const,
    };
    const without = blinking(0, [1, 0, 1], ({ clips }) => {
      clips[0].tracks = [turning];
    });
    const beside = blinking(0, [1, 0, 1], ({ clips }) => void clips[0].tracks.push(turning));
    expect(told(beside, without)).toEqual([text]);
  });

  it('is nothing of parts that are not there, and measures bends by the size of the whole', () => {
    const gone = riggedCrane();
    gone.nodes[4].name = 'Other';
    expect(compareRig(riggedCrane(), gone).filter(({ part }) => part === 'Jib')).toEqual([]);
    const bent = riggedCrane();
    bent.meshes[0].influences?.weights.set([0.9, 0.1], 4);
    const [skin] = compareRig(riggedCrane(), bent);
    // The crane is about three metres, and a bend may be off by two thousandths of that.
    expect([skin.code, Math.round(Number(skin.allowed) * 1e3), Number(skin.measured) > 0.01]).toEqual([
      'rig.skin',
      6,
      true,
    ]);
  });
});

describe('what a part hangs on', () => {
  it('is found, whatever wrappers formats put between', () => {
    const wrapped = riggedCrane();
    wrapped.nodes[0].parent = -1;
    expect(compareHierarchy(riggedCrane(), wrapped)).toEqual([]);
    const loose = riggedCrane();
    loose.nodes[4].parent = -1;
    expect(
      compareHierarchy(riggedCrane(), loose).map(({ code, part, measured, allowed }) => [
        code,
        part,
        measured,
        allowed,
      ]),
    ).toEqual([['part.moved', 'Jib', '', 'crane']]);
    const deeper = riggedCrane();
    deeper.nodes[4].parent = 1;
    expect(compareHierarchy(riggedCrane(), deeper)[0]).toMatchObject({
      code: 'part.moved',
      measured: 'root/crane',
      allowed: 'crane',
    });
  });
});

describe('parts of one name', () => {
  /** Two posts of one name beside each other; the one at 5 opens, by a shape of its own. */
  function posts(order: readonly number[]): SceneDocument {
    const document = createDocument('gltf', 'made');
    for (const x of order) {
      const corners = new Float64Array([x, 0, 0, x + 1, 0, 0, x + 1, 1, 0, x, 1, 0]);
      const lifted = { points: new Uint32Array([2]), offsets: new Float64Array([0, 0.5, 0]) };
      document.meshes.push(
        createMesh('post', {
          points: corners,
          faceCounts: new Uint32Array([4]),
          faceCorners: new Uint32Array([0, 1, 2, 3]),
          ...(x === 5 ? { shapes: [{ name: 'open', weight: 0, normalOffsets: null, ...lifted }] } : {}),
        }),
      );
      document.nodes.push(
        createNode('Post', 'mesh', -1, { mesh: document.meshes.length - 1, materials: [-1] }),
      );
    }
    return document;
  }

  it('meet where they stand, in whichever order they are written', () => {
    expect(compareRig(posts([0, 5]), posts([5, 0]))).toEqual([]);
    const shut = posts([5, 0]);
    for (const mesh of shut.meshes) mesh.shapes = [];
    expect(compareRig(posts([0, 5]), shut).map(({ code, message }) => `${code}: ${message}`)).toEqual([
      'rig.morph: Post: the shape open is not there',
    ]);
  });

  it('may be none: what moves bare nodes is held against how far apart they stand', () => {
    const bare = (lifted: number): SceneDocument => {
      const crane = riggedCrane();
      for (const node of crane.nodes) Object.assign(node, { mesh: -1, skin: -1, kind: 'group' });
      for (const { tracks } of crane.clips)
        for (const track of tracks)
          if (track.path === 'translation') track.values = track.values.map((value) => value + lifted);
      return crane;
    };
    // The nodes stand about two metres apart, of which two thousandths are allowed.
    expect(compareRig(bare(0), bare(1e-4))).toEqual([]);
    expect(compareRig(bare(0), bare(0.05)).map(({ code }) => code)).toContain('rig.clip');
  });

  it('hang on what those hang on that stand where they do', () => {
    /** The posts on two piers, the first on the pier `on[0]`. */
    const onPiers = (order: readonly number[], on: readonly [number, number]): SceneDocument => {
      const document = posts(order);
      const piers = ['East', 'West'].map((name) => createNode(name, 'group', -1));
      document.nodes = [...piers, ...document.nodes.map((node, i) => ({ ...node, parent: on[i] }))];
      return document;
    };
    expect(compareHierarchy(onPiers([0, 5], [0, 1]), onPiers([5, 0], [1, 0]))).toEqual([]);
    expect(
      compareHierarchy(onPiers([0, 5], [0, 1]), onPiers([5, 0], [0, 1])).map(({ message }) => message),
    ).toEqual(['Post hangs on west, not on east', 'Post hangs on east, not on west']);
  });
});
