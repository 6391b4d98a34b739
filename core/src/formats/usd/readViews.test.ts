import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readUsd } from './readUsd.ts';

async function read(type: string, body: string, { metres = 1, scale = 1 } = {}) {
  const text = `#usda 1.0
( metersPerUnit = ${metres} upAxis = "Y" )
def Xform "quay" {
  float3 xformOp:scale = (${scale}, ${scale}, ${scale})
  uniform token[] xformOpOrder = ["xformOp:scale"]
  def ${type} "lamp" { ${body} }
}`;
  const bytes = new TextEncoder().encode(text);
  return readUsd(bytes, 'a.usda', memorySource('test', { 'a.usda': bytes }));
}
const light = async (type: string, body = '') => (await read(type, body)).lights[0];

describe('cameras of USD', () => {
  it('have lens, window and range, and what the standard says where nothing is written', async () => {
    const { cameras, nodes } = await read(
      'Camera',
      'token projection = "perspective"\nfloat focalLength = 35\nfloat horizontalAperture = 36\nfloat verticalAperture = 24\nfloat2 clippingRange = (0.5, 90)',
    );
    expect(nodes[1].kind).toBe('camera');
    expect(cameras).toEqual([
      {
        name: 'lamp',
        projection: 'perspective',
        focalLength: 35,
        aperture: [36, 24],
        width: 3.6,
        near: 0.5,
        far: 90,
      },
    ]);
    const [plain] = (await read('Camera', '')).cameras;
    expect(plain).toMatchObject({ projection: 'perspective', focalLength: 50, near: 1, far: 1e6 });
    plain.aperture.forEach((side, i) => expect(side).toBeCloseTo([20.955, 15.2908][i], 4));
    const flat = await read('Camera', 'token projection = "orthographic"');
    expect(flat.cameras[0].projection).toBe('orthographic');
    expect(flat.remarks).toEqual([]);
    const shifted = await read('Camera', 'float verticalApertureOffset = 3');
    expect(shifted.remarks.map(({ subject }) => subject)).toEqual(['shifts of the pictures of cameras']);
  });
});

describe('lights of USD', () => {
  it('glow by their temperature where it is switched on', async () => {
    const glow = 'color3f inputs:color = (1, 0.5, 1)\nfloat inputs:colorTemperature = 2856';
    expect((await light('SphereLight', glow)).colour).toEqual([1, 0.5, 1]);
    const { colour } = await light('SphereLight', `${glow}\nbool inputs:enableColorTemperature = 1`);
    // Illuminant A (x 0.4476, y 0.4074) in linear Rec.709 of luminance 1.
    [1.845, 0.413, 0.233].forEach((component, k) =>
      expect(Math.abs(colour[k] - component)).toBeLessThan(0.01),
    );
    const plain = await light('SphereLight', 'bool inputs:enableColorTemperature = 1');
    expect(Math.max(...plain.colour) - Math.min(...plain.colour)).toBeLessThan(0.1);
  });

  it.each([
    ['DistantLight', 'directional'],
    ['SphereLight', 'point'],
    ['RectLight', 'area'],
    ['DiskLight', 'area'],
    ['CylinderLight', 'area'],
    ['DomeLight', 'dome'],
    ['DomeLight_1', 'dome'],
  ])('%s is %s', async (type, kind) => {
    expect((await light(type)).kind).toBe(kind);
  });

  it('of domes show an image, which is one of the document', async () => {
    const shown = await read(
      'DomeLight',
      'asset inputs:texture:file = @maps/quay sky.exr@\ntoken inputs:texture:format = "latlong"',
    );
    expect(shown.lights[0].sky).toEqual({ image: 'maps/quay sky.exr', layout: 'latlong' });
    expect(shown.images).toEqual([
      expect.objectContaining({ key: 'maps/quay sky.exr', written: 'maps/quay sky.exr' }),
    ]);
    expect((await light('DomeLight', 'asset inputs:texture:file = @sky.hdr@')).sky).toEqual({
      image: 'sky.hdr',
      layout: 'automatic',
    });
    expect((await light('DomeLight')).sky).toBeUndefined();
    expect((await light('RectLight', 'asset inputs:texture:file = @sky.hdr@')).sky).toBeUndefined();
  });

  it('have colour, strength with its stops, size and shadow', async () => {
    expect(
      await light(
        'SphereLight',
        'color3f inputs:color = (1, 0.5, 0)\nfloat inputs:intensity = 3\nfloat inputs:exposure = 2\nfloat inputs:radius = 2\nbool inputs:shadow:enable = 0',
      ),
    ).toEqual({
      name: 'lamp',
      kind: 'point',
      colour: [1, 0.5, 0],
      // Twelve nits of a disk of radius 2.
      intensity: 48 * Math.PI,
      innerAngle: 45,
      outerAngle: 45,
      size: [4, 4],
      castsShadow: false,
    });
    expect(await light('SphereLight')).toMatchObject({
      colour: [1, 1, 1],
      intensity: Math.PI / 4,
      size: [1, 1],
      castsShadow: true,
    });
    expect(await light('SphereLight', 'bool treatAsPoint = 1')).toMatchObject({ size: [0, 0] });
    expect(await light('RectLight', 'float inputs:width = 3\nfloat inputs:height = 2')).toMatchObject({
      size: [3, 2],
    });
    // Names of before the inputs had their space.
    expect(await light('SphereLight', 'float intensity = 5\ncolor3f color = (0, 0, 1)')).toMatchObject({
      intensity: (5 * Math.PI) / 4,
      colour: [0, 0, 1],
    });
  });

  it.each<[string, string, Parameters<typeof read>[2], number]>([
    // A ball of radius 1 shows a disk of pi.
    ['SphereLight', 'inputs:radius = 1', {}, 6 * Math.PI],
    ['SphereLight', 'inputs:radius = 1', { scale: 2 }, 24 * Math.PI],
    ['SphereLight', 'inputs:radius = 100', { metres: 0.01 }, 6 * Math.PI],
    // Divided by its surface, which is four such disks.
    ['SphereLight', 'inputs:radius = 7\nbool inputs:normalize = 1', { scale: 2 }, 1.5],
    ['SphereLight', 'inputs:radius = 7\nbool inputs:normalize = 1', { metres: 0.1 }, 0.015],
    ['RectLight', 'inputs:width = 3\nfloat inputs:height = 2', { scale: 2 }, 6],
    ['RectLight', 'inputs:width = 3\nfloat inputs:height = 2\nbool inputs:normalize = 1', {}, 1],
    ['RectLight', 'inputs:width = 3\nfloat inputs:height = 2\nbool inputs:normalize = 1', { scale: 2 }, 0.25],
    ['DiskLight', 'inputs:radius = 2\nbool inputs:normalize = 1', {}, 1.5 / Math.PI],
    [
      'CylinderLight',
      'inputs:radius = 1\nfloat inputs:length = 3\nbool inputs:normalize = 1',
      {},
      1 / Math.PI,
    ],
    // Half of the sky, all of it, and a mere direction.
    ['DistantLight', 'inputs:angle = 180', { scale: 2, metres: 0.01 }, 6 * Math.PI],
    ['DistantLight', 'inputs:angle = 360', {}, 12 * Math.PI],
    ['DistantLight', 'inputs:angle = 400', {}, 12 * Math.PI],
    ['DistantLight', 'inputs:angle = 0', {}, 6],
    ['DistantLight', 'inputs:angle = 90\nbool inputs:normalize = 1', {}, 6],
    ['DomeLight', 'inputs:radius = 3\nbool inputs:normalize = 1', { scale: 2 }, 6],
  ])('%s of six nits, %s %o, shines with %d', async (type, body, where, strength) => {
    const { lights } = await read(type, `float inputs:intensity = 6\nfloat ${body}`, where);
    expect(lights[0].intensity).toBeCloseTo(strength, 6);
  });

  it('are like the sun where they are far away and nothing is said', async () => {
    // 0.53 degrees across: pi times the squared sine of half of that.
    expect((await light('DistantLight')).intensity).toBeCloseTo(50_000 * Math.PI * 0.0046251 ** 2, 2);
  });

  it('keep the shape of what shines', async () => {
    expect((await light('RectLight')).shape).toBeUndefined();
    expect(await light('DiskLight', 'float inputs:radius = 2')).toMatchObject({
      shape: 'disk',
      size: [4, 4],
    });
    const tube = 'float inputs:radius = 1\nfloat inputs:length = 3';
    expect(await light('CylinderLight', tube)).toMatchObject({ shape: 'tube', size: [3, 2] });
  });

  it('tell what has no place', async () => {
    const subjects = async (body: string) =>
      (await read('SphereLight', body)).remarks.map(({ subject }) => subject);
    expect(await subjects('float inputs:specular = 1\nfloat inputs:shaping:focus = 0')).toEqual([]);
    expect(await subjects('float inputs:specular = 0')).toEqual([
      'lights that are stronger in highlights than in what is matt, or weaker',
    ]);
    expect(await subjects('float inputs:diffuse = 0.5')).toHaveLength(1);
    expect(await subjects('float inputs:shaping:focus = 3')).toEqual(['focus of lights']);
    expect(await subjects('asset inputs:shaping:ies:file = @lamp.ies@')).toEqual([
      'measured profiles of lights',
    ]);
    const ofSun = async (angle: number) =>
      (await read('DistantLight', `float inputs:angle = ${angle}`)).remarks.map(({ subject }) => subject);
    expect([await ofSun(0.53), await ofSun(3)]).toEqual([[], ['how wide distant lights look']]);
    const { lights, remarks } = await read('PortalLight', '');
    expect([lights, remarks.map(({ subject }) => subject)]).toEqual([[], ['prims of type PortalLight']]);
  });

  it('are spots by their cone, unless it is a half space', async () => {
    expect(
      await light(
        'SphereLight',
        'float inputs:shaping:cone:angle = 20\nfloat inputs:shaping:cone:softness = 0.25',
      ),
    ).toMatchObject({
      kind: 'spot',
      outerAngle: 40,
      innerAngle: 30,
    });
    expect(await light('SphereLight', 'float inputs:shaping:cone:angle = 90')).toMatchObject({
      kind: 'point',
    });
  });
});
