import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import {
  CUBIC,
  type Curve,
  createCurve,
  curvesOfShapes,
  evaluate,
  joinCurves,
  LINEAR,
  STEP,
} from './curves.ts';

const read = (text: string) =>
  readModel(
    'a.fbx',
    memorySource('test', { 'a.fbx': new TextEncoder().encode(`; FBX 7.4.0 project file\n${text}`) }),
  );

/** A model with one attribute, and the attribute's properties. */
const attribute = (kind: string, properties: Record<string, number | number[]>) =>
  read(`Objects:  {
  NodeAttribute: 1, "NodeAttribute::", "${kind}" {
    Properties70:  {
${Object.entries(properties)
  .map(([name, value]) => `      P: "${name}", "double", "Number", "",${[value].flat().join(',')}`)
  .join('\n')}
    }
  }
  Model: 2, "Model::thing", "${kind}" {
  }
}
Connections:  {
  C: "OO",1,2
  C: "OO",2,0
}
`);

describe('cameras', () => {
  it('have their lens in millimetres, their window in inches, and their range', async () => {
    const { cameras, nodes } = await attribute('Camera', {
      FilmWidth: 1,
      FilmHeight: 0.5,
      FocalLength: 50,
      NearPlane: 1,
      FarPlane: 900,
      OrthoZoom: 3,
    });
    expect(nodes[0]).toMatchObject({ kind: 'camera', camera: 0 });
    expect(cameras).toEqual([
      {
        name: 'thing',
        projection: 'perspective',
        focalLength: 50,
        aperture: [25.4, 12.7],
        width: 3,
        near: 1,
        far: 900,
      },
    ]);
  });

  it('without a lens have the one of their angle, and without either a usual one', async () => {
    const lens = async (properties: Record<string, number>) =>
      (await attribute('Camera', { FilmWidth: 1, FilmHeight: 0.5, ...properties })).cameras[0].focalLength;
    // 12.7 / tan 45.
    expect(await lens({ FieldOfView: 90 })).toBeCloseTo(12.7, 9);
    expect(await lens({ FieldOfView: 90, FocalLength: 20 })).toBe(20);
    expect(await lens({ FieldOfView: 90, FocalLength: 0 })).toBeCloseTo(12.7, 9);
    expect(await lens({ FieldOfView: 180 })).toBe(35);
    // The film is an inch wide and half as high: 90 degrees across are half an inch away, upright a quarter.
    expect(await lens({ ApertureMode: 3, FieldOfView: 90, FocalLength: 20 })).toBe(20);
    expect(await lens({ ApertureMode: 1, FieldOfView: 90, FocalLength: 20 })).toBeCloseTo(12.7, 9);
    expect(await lens({ ApertureMode: 2, FieldOfView: 90, FocalLength: 20 })).toBeCloseTo(6.35, 9);
    expect(await lens({ ApertureMode: 0, FieldOfViewX: 90, FieldOfView: 20, FocalLength: 20 })).toBeCloseTo(
      12.7,
      9,
    );
    expect(await lens({ ApertureMode: 2, FocalLength: 20 })).toBe(20);
    expect(await lens({ FieldOfView: 0 })).toBe(35);
    expect(await lens({})).toBe(35);
  });

  it('are told where their film is shifted, or where they aim at another part', async () => {
    const told = ({ remarks }: Awaited<ReturnType<typeof read>>) => remarks.map(({ subject }) => subject);
    expect(told(await attribute('Camera', { FilmOffsetX: 0, FilmOffsetY: 0.2 }))).toEqual([
      'shifts of the pictures of cameras',
    ]);
    expect(told(await attribute('Camera', { FilmOffsetX: 0 }))).toEqual([]);
    const aimed = await read(`Objects:  {
  NodeAttribute: 1, "NodeAttribute::", "Camera" {
  }
  Model: 2, "Model::watch", "Camera" {
  }
  Model: 3, "Model::buoy", "Null" {
  }
}
Connections:  {
  C: "OO",1,2
  C: "OO",2,0
  C: "OO",3,0
  C: "OP",3,2, "LookAtProperty"
}
`);
    expect(told(aimed)).toEqual(['aims at other parts']);
    expect(aimed.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['watch', -1],
      ['buoy', -1],
    ]);
  });

  it('take what the format says where nothing is written', async () => {
    const [camera] = (await attribute('Camera', { CameraProjectionType: 1 })).cameras;
    expect(camera).toMatchObject({ projection: 'orthographic', width: 1, near: 10, far: 4000 });
    camera.aperture.forEach((side, i) => expect(side).toBeCloseTo([0.816, 0.612][i] * 25.4, 9));
  });
});

describe('lights', () => {
  it.each([
    [0, 'point'],
    [1, 'directional'],
    [2, 'spot'],
    [3, 'area'],
    [4, 'area'],
    [9, 'point'],
  ])('of type %i are %s', async (type, kind) => {
    expect((await attribute('Light', { LightType: type })).lights[0].kind).toBe(kind);
  });

  it('have colour, strength where 100 is 1, cone and shadow', async () => {
    const [light] = (
      await attribute('Light', {
        Color: [1, 0.5, 0],
        Intensity: 250,
        InnerAngle: 20,
        OuterAngle: 40,
        CastShadows: 0,
      })
    ).lights;
    expect(light).toEqual({
      name: 'thing',
      kind: 'point',
      colour: [1, 0.5, 0],
      intensity: 2.5,
      innerAngle: 20,
      outerAngle: 40,
      size: [1, 1],
      castsShadow: false,
      fading: 'none',
    });
    const [plain] = (await attribute('Light', {})).lights;
    expect(plain).toMatchObject({
      colour: [1, 1, 1],
      intensity: 1,
      innerAngle: 45,
      outerAngle: 45,
      castsShadow: true,
    });
    expect((await attribute('Light', { Intensity: 250, CastLight: 0 })).lights[0].intensity).toBe(0);
    const [old] = (await attribute('Light', { 'Cone angle': 30, HotSpot: 10 })).lights;
    expect(old).toMatchObject({ innerAngle: 10, outerAngle: 30 });
  });
});

describe('how lights fade', () => {
  it.each([
    [0, 0, 'none'],
    [0, 1, 'linear'],
    [0, 2, undefined],
    [2, 3, 'cubic'],
    [2, undefined, 'none'],
    // What comes from far away does not.
    [1, 0, undefined],
  ])('of type %i with DecayType %s is %s', async (LightType, DecayType, fading) => {
    const words = { LightType, ...(DecayType === undefined ? {} : { DecayType }) };
    expect((await attribute('Light', words)).lights[0].fading).toBe(fading);
  });
});

describe('deformers', () => {
  it('of other kinds are told, and clusters without a bone move nothing', async () => {
    const document = await read(`Objects:  {
  Geometry: 1, "Geometry::", "Mesh" {
    Vertices: *9 {
      a: 0,0,0,1,0,0,0,1,0
    }
    PolygonVertexIndex: *3 {
      a: 0,1,-3
    }
  }
  Model: 2, "Model::sail", "Mesh" {
  }
  Model: 3, "Model::mast", "LimbNode" {
  }
  Deformer: 4, "Deformer::wind", "Lattice" {
  }
  Deformer: 5, "Deformer::skin", "Skin" {
  }
  Deformer: 6, "SubDeformer::lost", "Cluster" {
  }
  Deformer: 7, "SubDeformer::held", "Cluster" {
    Indexes: *3 {
      a: 0,2,7
    }
    Weights: *3 {
      a: 1,0.5,1
    }
    TransformLink: *16 {
      a: 1,0,0,0,0,1,0,0,0,0,1,0,4,5,6,1
    }
  }
}
Connections:  {
  C: "OO",1,2
  C: "OO",2,0
  C: "OO",3,0
  C: "OO",4,1
  C: "OO",5,1
  C: "OO",6,5
  C: "OO",7,5
  C: "OO",3,7
}
`);
    expect(document.remarks.map(({ subject }) => subject)).toEqual([
      'clusters without a bone',
      'deformers of kind Lattice',
    ]);
    const [skin] = document.skins;
    expect([skin.name, skin.joints.map((joint) => document.nodes[joint].name)]).toEqual(['skin', ['mast']]);
    // Where only the bone's place is written, its inverse.
    expect([...skin.inverseBind.slice(12)]).toEqual([-4, -5, -6, 1]);
    const { influences } = document.meshes[0];
    // The point with number 7 is not there.
    expect([
      [...(influences?.starts ?? [])],
      [...(influences?.joints ?? [])],
      [...(influences?.weights ?? [])],
    ]).toEqual([
      [0, 1, 1, 2],
      [0, 0],
      [1, 0.5],
    ]);
  });
});

describe('curves', () => {
  const curve = (
    times: number[],
    values: number[],
    kind = LINEAR,
    slopes: Partial<Pick<Curve, 'out' | 'into'>> = {},
  ): Curve => ({
    ...createCurve(Float64Array.from(times), Float64Array.from(values)),
    kinds: new Uint8Array(times.length).fill(kind),
    ...slopes,
  });
  const at = (one: Curve, ...times: number[]) => times.map((time) => evaluate(one, time));

  it('are held before and after, straight, stepped or bent between', () => {
    expect(at(curve([1, 3], [10, 20]), 0, 1, 1.5, 2, 3, 9)).toEqual([10, 10, 12.5, 15, 20, 20]);
    expect(at(curve([1, 3], [10, 20], STEP), 1, 2.9, 3)).toEqual([10, 10, 20]);
    // Flat at both ends: half way at the middle, 5/32 at a quarter.
    const flat = curve([0, 4], [0, 32], CUBIC);
    expect(at(flat, 1, 2, 3)).toEqual([5, 16, 27]);
    // Slopes of 8 a second make the same straight line.
    const straight = curve([0, 4], [0, 32], CUBIC, {
      out: Float64Array.of(8, 0),
      into: Float64Array.of(8, 0),
    });
    at(straight, 1, 2, 3).forEach((value, i) => expect(value).toBeCloseTo([8, 16, 24][i], 9));
    expect(evaluate(createCurve(new Float64Array(0), new Float64Array(0)), 1)).toBe(0);
  });

  it('part at the stops of the shapes that they go through', () => {
    const [half, full] = curvesOfShapes(curve([0, 1, 2], [0, 100, 100]), [25, 100]);
    expect([...half.times]).toEqual([0, 0.25, 1, 2]);
    expect([...half.values, ...full.values]).toEqual([0, 1, 0, 0, 0, 0, 1, 1]);
    const steps = curvesOfShapes(curve([0, 1], [10, 62.5], STEP), [25, 100]);
    expect(steps.map(({ values }) => [...values])).toEqual([
      [0.4, 0.5],
      [0, 0.5],
    ]);
    expect([...steps[0].kinds, ...steps[0].times]).toEqual([STEP, STEP, 0, 1]);
    // Flat at both ends, 50 in the middle: two thirds of the first there, and straight between many keys.
    const bent = curvesOfShapes(curve([0, 1], [0, 100], CUBIC), [25, 100]);
    expect(at(bent[0], 0.5)[0]).toBeCloseTo(2 / 3, 9);
    expect([bent[0].kinds.includes(CUBIC), bent[0].times.length]).toEqual([false, 32]);
  });

  it('join at every key where they are straight, with what is still beside them', () => {
    const joined = joinCurves([curve([0, 2], [0, 4]), null, curve([1, 2], [10, 20])], [7, 8, 9]);
    expect(joined).toEqual({
      times: Float64Array.of(0, 1, 2),
      values: Float64Array.of(0, 8, 10, 2, 8, 10, 4, 8, 20),
      interpolation: 'linear',
    });
  });

  it('stay stepped where all are', () => {
    expect(joinCurves([curve([0, 2], [0, 4], STEP), curve([1], [5], STEP)], [0, 0])).toEqual({
      times: Float64Array.of(0, 1, 2),
      values: Float64Array.of(0, 5, 0, 5, 4, 5),
      interpolation: 'step',
    });
  });

  it('stay bent where all have the same keys: slope in, value, slope out', () => {
    const bent = curve([0, 1], [2, 3], CUBIC, { out: Float64Array.of(5, 0), into: Float64Array.of(6, 0) });
    expect(joinCurves([bent, null], [0, 9])).toEqual({
      times: Float64Array.of(0, 1),
      values: Float64Array.of(0, 0, 2, 9, 5, 0, 6, 0, 3, 9, 0, 0),
      interpolation: 'cubic',
    });
  });

  it('are sampled thirty times a second where kinds or keys differ', () => {
    const joined = joinCurves([curve([0, 1], [0, 30], CUBIC), curve([0, 0.5, 1], [0, 1, 0])], [0, 0]);
    expect(joined.interpolation).toBe('linear');
    expect(joined.times).toHaveLength(31);
    expect([joined.values[30], joined.values[31]]).toEqual([15, 1]);
    // Every key is among the samples.
    expect(
      joinCurves([curve([0, 0.51, 1], [0, 1, 0], CUBIC), curve([0, 1], [0, 1])], [0, 0]).times,
    ).toContain(0.51);
  });
});

describe('stacks of clips', () => {
  const TICK = 46186158000;
  const moving = (layers: string, links: string) =>
    read(`Objects:  {
  Model: 1, "Model::boom", "Null" {
    Properties70:  {
      P: "Lcl Translation", "Lcl Translation", "", "A",1,2,3
    }
  }
  Model: 2, "Model::hook", "Null" {
  }
  AnimationStack: 10, "AnimStack::swing", "" {
    Properties70:  {
      P: "LocalStop", "KTime", "Time", "",${TICK * 2}
    }
  }
${layers}
}
Connections:  {
  C: "OO",1,0
  C: "OO",2,0
${links}
}
`);
  const layer = (id: number, name: string) => `  AnimationLayer: ${id}, "AnimLayer::${name}", "" {\n  }`;
  const node = (id: number, property: string) =>
    `  AnimationCurveNode: ${id}, "AnimCurveNode::${property}", "" {\n    Properties70:  {\n      P: "d|Y", "Number", "", "A",7\n    }\n  }`;
  const curve = (id: number, values: number[], more = '') =>
    `  AnimationCurve: ${id}, "AnimCurve::", "" {\n    KeyTime: *2 {\n      a: 0,${TICK}\n    }\n    KeyValueFloat: *2 {\n      a: ${values.join(',')}\n    }\n${more}  }`;

  it('move what is joined to them, one number by its curve and the others as they are written', async () => {
    const { clips, remarks } = await moving(
      [layer(11, 'Base'), node(12, 'T'), curve(13, [1, 5])].join('\n'),
      '  C: "OO",11,10\n  C: "OO",12,11\n  C: "OP",12,1,"Lcl Translation"\n  C: "OP",13,12,"d|X"',
    );
    expect(clips.map(({ name, start, end, tracks }) => [name, start, end, tracks.length])).toEqual([
      ['swing', 0, 2, 1],
    ]);
    const [track] = clips[0].tracks;
    expect([track.node, track.path, [...track.times], [...track.values]]).toEqual([
      0,
      'translation',
      [0, 1],
      [1, 7, 3, 5, 7, 3],
    ]);
    expect(remarks.filter(({ code }) => code === 'read.notCarried')).toEqual([]);
  });

  it('have further layers told, and the first one wins where both move the same', async () => {
    const { clips, remarks } = await moving(
      [
        layer(11, 'Base'),
        node(12, 'T'),
        curve(13, [1, 5]),
        layer(21, 'Shake'),
        node(22, 'T'),
        curve(23, [8, 9]),
      ].join('\n'),
      '  C: "OO",11,10\n  C: "OO",12,11\n  C: "OP",12,1,"Lcl Translation"\n  C: "OP",13,12,"d|X"\n  C: "OO",21,10\n  C: "OO",22,21\n  C: "OP",22,1,"Lcl Translation"\n  C: "OP",23,22,"d|X"',
    );
    expect(clips[0].tracks.map(({ values }) => [values[0], values[3]])).toEqual([[1, 5]]);
    expect(remarks.map(({ subject }) => subject)).toContain('further animation layers');
  });

  it('move shapes by the percent at which these stand as they are written', async () => {
    const list = (name: string, values: number[]) =>
      `    ${name}: *${values.length} {\n      a: ${values.join(',')}\n    }\n`;
    const weights = async (full: string) => {
      const shape = `  Geometry: 3, "Geometry::sail", "Mesh" {
${list('Vertices', [0, 0, 0, 1, 0, 0, 0, 1, 0])}${list('PolygonVertexIndex', [0, 1, -3])}  }
  Model: 4, "Model::sail", "Mesh" {
  }
  Deformer: 5, "Deformer::", "BlendShape" {
  }
  Deformer: 6, "SubDeformer::full", "BlendShapeChannel" {
${full}  }
  Geometry: 7, "Geometry::full", "Shape" {
${list('Indexes', [0])}${list('Vertices', [0, 0, 1])}  }`;
      const links = [
        [3, 4],
        [5, 3],
        [6, 5],
        [7, 6],
        [4, 0],
        [11, 10],
        [12, 11],
      ];
      const { clips } = await moving(
        [shape, layer(11, 'Base'), node(12, 'DeformPercent'), curve(13, [20, 60])].join('\n'),
        `${links.map(([from, to]) => `  C: "OO",${from},${to}`).join('\n')}
  C: "OP",12,6,"DeformPercent"\n  C: "OP",13,12,"d|DeformPercent"`,
      );
      return [...clips[0].tracks[0].values];
    };
    expect(await weights('')).toEqual([0.2, 0.6]);
    expect(await weights(list('FullWeights', [80]))).toEqual([0.25, 0.75]);
  });

  it('without flags and runs go straight from key to key, and by them otherwise', async () => {
    const links = '  C: "OO",11,10\n  C: "OO",12,11\n  C: "OP",12,2,"Lcl Translation"\n  C: "OP",13,12,"d|X"';
    const kind = async (more: string) =>
      (await moving([layer(11, 'Base'), node(12, 'T'), curve(13, [1, 5], more)].join('\n'), links)).clips[0]
        .tracks[0].interpolation;
    const list = (name: string, values: number[]) =>
      `    ${name}: *${values.length} {\n      a: ${values.join(',')}\n    }\n`;
    expect(await kind('')).toBe('linear');
    // Flags alone say nothing without the runs that they hold for.
    expect(await kind(list('KeyAttrFlags', [2]))).toBe('linear');
    expect(await kind(list('KeyAttrFlags', [2]) + list('KeyAttrRefCount', [2]))).toBe('step');
    expect(await kind(list('KeyAttrFlags', [4]) + list('KeyAttrRefCount', [2]))).toBe('linear');
  });
});
