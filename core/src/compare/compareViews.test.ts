import { describe, expect, it } from 'vitest';
import { createDocument, createNode, type Light, type SceneDocument } from '../scene/document.ts';
import { lamp } from '../test/lamp.ts';
import { lens } from '../test/lens.ts';
import { compareViews } from './compareViews.ts';

const LAMP = lamp();

/** A camera and a lamp at the quay, in centimetres. */
function quay(change: (document: SceneDocument) => void = () => {}): SceneDocument {
  const document = createDocument('fbx', 'binary');
  document.metresPerUnit = 0.01;
  document.cameras.push(lens({ near: 10, far: 10_000 }));
  document.lights.push({ ...LAMP });
  document.nodes.push(
    createNode('Watch', 'camera', -1, { camera: 0 }),
    createNode('Lamp', 'light', -1, { light: 0 }),
  );
  document.nodes[1].transform.translation = [0, 300, 0];
  change(document);
  return document;
}

const against = (change: (document: SceneDocument) => void) =>
  compareViews(quay(), quay(change)).map(({ code, part, message }) => `${code} ${part}: ${message}`);

describe('cameras and lights', () => {
  it('are the same as long as they stand, look and shine the same', () => {
    expect(compareViews(quay(), quay())).toEqual([]);
    expect(against(({ nodes }) => nodes.reverse())).toEqual([]);
    // The same in metres.
    expect(
      against((document) => {
        document.metresPerUnit = 1;
        for (const { transform } of document.nodes)
          transform.translation = transform.translation.map((value) => value / 100) as [
            number,
            number,
            number,
          ];
        Object.assign(document.cameras[0], { near: 0.1, far: 100 });
      }),
    ).toEqual([]);
  });

  it.each<[string, (document: SceneDocument) => void, string]>([
    [
      'stands elsewhere',
      ({ nodes }) => Object.assign(nodes[1].transform.translation, [40]),
      'part.moved Lamp: Lamp stands 0.400 m elsewhere',
    ],
    [
      'looks elsewhere',
      ({ nodes }) => Object.assign(nodes[0].transform.rotation, { 1: 5 }),
      'part.moved Watch: Watch looks elsewhere',
    ],
    [
      'has another lens',
      ({ cameras }) => Object.assign(cameras[0], { focalLength: 50 }),
      'channel.differs Watch',
    ],
    [
      'sees from farther on',
      ({ cameras }) => Object.assign(cameras[0], { near: 50 }),
      'channel.differs Watch',
    ],
    ['sees less far', ({ cameras }) => Object.assign(cameras[0], { far: 900 }), 'channel.differs Watch'],
    ['shines stronger', ({ lights }) => Object.assign(lights[0], { intensity: 4 }), 'channel.differs Lamp'],
    [
      'shines in another colour',
      ({ lights }) => Object.assign(lights[0], { colour: [1, 1, 1] }),
      'channel.differs Lamp',
    ],
    [
      'has another edge',
      ({ lights }) => Object.assign(lights[0], { innerAngle: 39 }),
      'channel.differs Lamp',
    ],
    [
      'is of another kind',
      ({ lights }) => Object.assign(lights[0], { kind: 'point' }),
      'part.missing Lamp: Lamp is point, not spot',
    ],
    ['is gone', ({ nodes }) => nodes.pop(), 'part.missing Lamp: Lamp is not there'],
    [
      'is there twice',
      ({ nodes }) => nodes.push({ ...nodes[1], name: 'Twin' }),
      'part.added Twin: Twin is there besides',
    ],
  ])('differ where one %s', (_, change, expected) => {
    const [line, ...more] = against(change);
    expect(line.startsWith(expected), line).toBe(true);
    expect(more).toEqual([]);
  });

  it('see as wide in any unit, by the width where they see in parallel and by the lens elsewhere', () => {
    const parallel = (width: number, metres = 0.01, focalLength = 35) =>
      quay((document) => {
        document.metresPerUnit = metres;
        Object.assign(document.cameras[0], {
          projection: 'orthographic',
          width,
          focalLength,
          near: 0,
          far: Infinity,
        });
        document.nodes[1].transform.translation = [0, 3 / metres, 0];
      });
    expect(compareViews(parallel(200), parallel(2, 1, 50))).toEqual([]);
    expect(compareViews(parallel(200), parallel(150)).map(({ code }) => code)).toEqual(['channel.differs']);
    const tall = quay(({ cameras }) => Object.assign(cameras[0], { aperture: [36, 30] }));
    expect(compareViews(quay(), tall).map(({ code }) => code)).toEqual(['channel.differs']);
    const larger = quay(({ cameras }) => Object.assign(cameras[0], { aperture: [72, 48], focalLength: 70 }));
    expect(compareViews(quay(), larger)).toEqual([]);
  });

  it('see as far where one sees without an end', () => {
    const far = (value: number) => quay(({ cameras }) => Object.assign(cameras[0], { far: value }));
    // A hundred kilometres in centimetres.
    expect(compareViews(far(Number.POSITIVE_INFINITY), far(1e7))).toEqual([]);
    expect(compareViews(far(Number.POSITIVE_INFINITY), far(1e5)).map(({ code }) => code)).toEqual([
      'channel.differs',
    ]);
    expect(compareViews(far(1e5), far(9e4)).map(({ code }) => code)).toEqual(['channel.differs']);
  });

  it('see as high in parallel', () => {
    const parallel = (aperture: [number, number]) =>
      quay(({ cameras }) => Object.assign(cameras[0], { projection: 'orthographic', width: 200, aperture }));
    expect(compareViews(parallel([36, 24]), parallel([72, 48]))).toEqual([]);
    expect(compareViews(parallel([36, 24]), parallel([36, 30])).map(({ code }) => code)).toEqual([
      'channel.differs',
    ]);
  });

  it.each<[Partial<Light>, SceneDocument['format'][]]>([
    [{ castsShadow: false }, ['usd', 'fbx']],
    [{ fading: 'linear' }, ['fbx']],
    [{ size: [3, 3] }, ['usd']],
    [{ shape: 'disk' }, ['usd']],
  ])('with %o differ where the format says it', (more, formats) => {
    const lamps = (['usd', 'fbx', 'gltf'] as const).filter((format) => {
      const other = { ...quay(({ lights }) => Object.assign(lights[0], more)), format };
      return compareViews(quay(), other).length > 0;
    });
    expect(lamps).toEqual(formats);
  });

  it('that the format of the other cannot say are not looked for', () => {
    const dome = quay(({ lights }) => Object.assign(lights[0], { kind: 'dome' }));
    const empty = (format: SceneDocument['format']) => ({ ...quay(({ nodes }) => nodes.splice(0)), format });
    expect(compareViews(dome, empty('obj'))).toEqual([]);
    expect(compareViews(dome, empty('gltf')).map(({ part }) => part)).toEqual(['Watch']);
    expect(compareViews(dome, empty('usd')).map(({ part }) => part)).toEqual(['Watch', 'Lamp']);
  });
});
