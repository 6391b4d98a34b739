import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { createMapUse, createMaterial } from '../scene/material.ts';
import { testImage } from '../test/assets.ts';
import { describeSource, embeddedImages } from './describeSource.ts';
import { groundOf, imagesOnGround } from './ownImages.ts';
import { measureUvTiles } from './uvTiles.ts';

/** Quads of one mesh, each with the lower left corner of its UVs given, all of one material. */
function quads(corners: [number, number][], written: string): SceneDocument {
  const document = createDocument('usd', 'text');
  const hull = createMaterial('Hull', 'metalRough');
  hull.channels.baseColor = {
    value: [1, 1, 1],
    map: createMapUse(written, 'baseColor'),
    source: { from: 'file', detail: '' },
  };
  document.materials.push(hull);
  document.images.push({ key: written, written, relative: null, embedded: null });
  const points = corners.flatMap((_, i) => [i, 0, 0, i + 1, 0, 0, i + 1, 1, 0, i, 1, 0]);
  const uvs = corners.flatMap(([u, v]) => [u, v, u + 0.9, v, u + 0.9, v + 0.9, u, v + 0.9]);
  const mesh = createMesh('Quads', {
    points: Float64Array.from(points),
    faceCounts: Uint32Array.from(corners, () => 4),
    faceCorners: Uint32Array.from({ length: corners.length * 4 }, (_, i) => i),
    uvSets: [{ name: 'st', size: 2, domain: 'corner', values: Float64Array.from(uvs), index: null }],
  });
  document.meshes.push(mesh);
  document.nodes.push(createNode('Quads', 'mesh', -1, { mesh: 0, materials: [0] }));
  return document;
}

describe('a model with maps in tiles', () => {
  const files = ['boat/tex/hull.1001.png', 'boat/tex/hull.1002.png', 'boat/tex/hull.1011.png'];
  const corners: [number, number][] = [
    [0.05, 0.05],
    [1.05, 0.05],
    [0.05, 1.05],
    [-3, 0.05],
  ];

  it('resolves the pattern to the set, and knows which tiles its faces lie in', () => {
    const source = describeSource(quads(corners, './tex/hull.<UDIM>.png'), 'boat/boat.usda', files);
    expect(source.images[0]).toMatchObject({
      status: 'found',
      resolved: files[0],
      tiles: [{ number: 1001 }, { number: 1002 }, { number: 1011 }],
    });
    expect(source.uvTiles).toEqual({ Hull: [1001, 1002, 1011] });
  });

  it('takes the first tile for the set, any other tile for itself', () => {
    const described = (written: string) =>
      describeSource(quads(corners, written), 'boat/boat.usda', files).images[0];
    expect(described('tex/hull.1001.png').tiles).toHaveLength(3);
    expect(described('tex/hull.1002.png').tiles).toBeUndefined();
  });

  it('measures no tiles for maps without them, and none left of 0', () => {
    expect(describeSource(quads(corners, 'tex/plain.png'), 'boat/boat.usda', files).uvTiles).toBeUndefined();
    expect(measureUvTiles(quads([[-0.95, 0.05]], ''))).toEqual({});
  });
});

describe('images of a parcel with several models', () => {
  it("are the model's own where they lie below its folder", () => {
    expect(groundOf('a/a.obj', ['a/a.obj'], ['x.png'])).toEqual({ home: '' });
    expect(groundOf('a/a.obj', ['a/a.obj', 'b/b.obj'], ['a/x.png', 'b/t/x.png'])).toEqual({ home: 'a' });
    expect(groundOf('a/a.obj', ['a/a.obj', 'a/b.obj'], [])).toEqual({ home: '', modelsAtHome: 2 });
    const images = [
      'a/x.png',
      'b/x.png',
      'embedded/y.png',
      'search/1/x.png',
      'parcels/0f3b1c2d-0000-4000-8000-00000000000a/x.png',
    ].map((path) => testImage(path));
    expect(imagesOnGround({ home: 'a' }, images).map(({ path }) => path)).toEqual([
      'a/x.png',
      'embedded/y.png',
    ]);
    expect(imagesOnGround({}, images).map(({ path }) => path)).toEqual([
      'a/x.png',
      'b/x.png',
      'embedded/y.png',
    ]);
  });

  it('lie beside the folder of the scene, or on common ground that is nobody else’s', () => {
    const models = ['kit/buoy/scenes/buoy.fbx', 'kit/winch/scenes/winch.fbx', 'kit/winch/scenes/winch_b.fbx'];
    const images = ['kit/buoy/images/a.png', 'kit/winch/images/b.png', 'kit/shared/wood/c.png', 'd.png'];
    const own = (model: string) => {
      const ground = groundOf(model, models, images);
      const paths = imagesOnGround(
        ground,
        images.map((path) => testImage(path)),
      ).map(({ path }) => path);
      return [ground.home, ground.modelsAtHome, ...paths];
    };
    expect(own(models[0])).toEqual(['kit/buoy', undefined, images[0], images[2], images[3]]);
    expect(own(models[1])).toEqual(['kit/winch', 2, images[1], images[2], images[3]]);
    // Nothing is common where every image lies with a model.
    expect(groundOf(models[1], models, images.slice(0, 2))).toEqual({ home: 'kit/winch', modelsAtHome: 2 });
  });
});

describe('images that a model carries', () => {
  it('lie under names of their own, with the type of their content where they state none', () => {
    const document = createDocument('fbx', 'binary');
    const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0, 0, 0);
    const written = ['C:\\tex\\Hull.TGA', 'b/Hull.TGA', 'Hull', 'c/Hull', '', 'odd'];
    document.images = written.map((path, i) => ({
      key: `k${i}`,
      written: path,
      relative: null,
      embedded: path === 'odd' ? Uint8Array.of(1, 2, 3) : png,
    }));
    document.images.push({ key: 'k9', written: 'deck.png', relative: null, embedded: null });
    expect(embeddedImages(document).map(({ key, path }) => [key, path])).toEqual([
      ['k0', 'embedded/Hull.TGA'],
      ['k1', 'embedded/Hull-2.tga'],
      ['k2', 'embedded/Hull.png'],
      ['k3', 'embedded/Hull-2.png'],
      ['k4', 'embedded/image.png'],
      ['k5', 'embedded/odd'],
    ]);
  });
});
