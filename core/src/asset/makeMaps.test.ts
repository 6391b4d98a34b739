import { describe, expect, it } from 'vitest';
import { replay } from '../edits/log.ts';
import { parseEdit } from '../edits/schema.ts';
import { decodeImage } from '../images/decode.ts';
import { encodePng } from '../images/encode.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import type { AssetState } from './asset.ts';
import { keepMaterial, materialsNamed, placeMaterial } from './canonical.ts';
import { makeMaps } from './makeMaps.ts';

const flat = (r: number, g: number, b: number) =>
  encodePng({
    width: 4,
    height: 4,
    components: 3,
    data: Uint8Array.from({ length: 48 }, (_, i) => [r, g, b][i % 3]),
  });

async function tinted(): Promise<{ state: AssetState; read: (path: string) => Promise<Uint8Array> }> {
  const material = testMaterial('Hull', { baseColor: 'hull.1001.png', roughness: 'rough.png' });
  material.channels.baseColor = { ...material.channels.baseColor, value: [0.5, 1, 1] } as NonNullable<
    typeof material.channels.baseColor
  >;
  const state = testState([material]);
  state.images[0].tiles = [
    { number: 1001, path: 'hull.1001.png' },
    { number: 1002, path: 'hull.1002.png' },
  ];
  const files: Record<string, Uint8Array> = {
    'hull.1001.png': await flat(200, 100, 50),
    'hull.1002.png': await flat(100, 30, 60),
  };
  return { state, read: async (path) => files[path] };
}

describe('makeMaps', () => {
  it('makes one image per tile, and the edit puts the set to use', async () => {
    const { state, read } = await tinted();
    const { files, edit } = await makeMaps(
      { materials: ['Hull'], recipe: 'bake-tint', params: {} },
      state,
      read,
    );
    expect(files.map(({ path }) => path)).toEqual([
      expect.stringMatching(/^made\/Hull_\w{6}\.baseColor\.1001\.png$/),
      expect.stringMatching(/\.1002\.png$/),
    ]);
    // sRGB 200 is 0.57758 in light, half of it is sRGB 146; 100 is 0.12744 and becomes 71.
    expect((await decodeImage(files[0].bytes, 'a.png')).data[0]).toBe(146);
    expect((await decodeImage(files[1].bytes, 'b.png')).data[0]).toBe(71);
    expect(parseEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit);
    const images = [
      ...files.map(({ path }) => testImage(path)),
      testImage('hull.1001.png'),
      testImage('hull.1002.png'),
    ];
    const source = { ...testSource(state), images: state.images, materials: state.materials };
    const after = replay(source, edit ? [edit] : [], images).state;
    const map = after.materials[0].channels.baseColor?.map;
    const entry = after.images.find(({ key }) => key === map?.image);
    expect(entry?.tiles?.map(({ number }) => number)).toEqual([1001, 1002]);
    expect(after.materials[0].channels.baseColor?.value).toEqual([1, 1, 1]);
  });

  it('tells of a set the mean of its tiles, and of what is most the most', async () => {
    const material = testMaterial('Hull', { baseColor: 'hull.1001.png', specularColor: 'spec.1001.png' });
    material.workflow = 'specGloss';
    const files: Record<string, Uint8Array> = {
      'hull.1001.png': await flat(120, 110, 100),
      'hull.1002.png': await flat(0, 0, 0),
      'spec.1001.png': await flat(56, 56, 56),
      'spec.1002.png': await flat(30, 60, 190),
    };
    const made = async (tiles: readonly number[], of: number) => {
      const state = testState([material]);
      for (const image of state.images)
        if (tiles.length > 0)
          image.tiles = tiles.map((number) => ({ number, path: image.key.replace('1001', String(number)) }));
      const read = async (path: string) => files[path.replace('1001', String(tiles.length > 0 ? 1001 : of))];
      const { notes } = await makeMaps(
        { materials: ['Hull'], recipe: 'metal-rough', params: {} },
        state,
        read,
      );
      return new Map(notes[0].figures.map(({ title, value }) => [title, value]));
    };
    const [first, second] = [await made([], 1001), await made([], 1002)];
    const both = await made([1001, 1002], 0);
    expect(both.size).toBeGreaterThan(1);
    expect([...first.values()]).not.toEqual([...second.values()]);
    for (const [title, value] of both) {
      const pair = [first.get(title) ?? 0, second.get(title) ?? 0];
      const expected = /most|largest|worst/i.test(title) ? Math.max(...pair) : (pair[0] + pair[1]) / 2;
      expect(value, title).toBeCloseTo(expected, 6);
    }
  });

  it('takes what lies elsewhere by its mean, and notes it', async () => {
    const material = testMaterial('Hull', { baseColor: 'hull.png', metalness: 'metal.png' });
    const { map } = material.channels.metalness as NonNullable<typeof material.channels.metalness>;
    const read = async (path: string) =>
      path === 'hull.png'
        ? flat(255, 255, 255)
        : encodePng({ width: 2, height: 1, components: 1, data: Uint8Array.of(255, 0) });
    const converted = async (uvSet: string | null) => {
      if (map) map.uvSet = uvSet;
      const { files, notes } = await makeMaps(
        { materials: ['Hull'], recipe: 'spec-gloss', params: {} },
        testState([material]),
        read,
      );
      const diffuse = files.find(({ channel }) => channel === 'baseColor')?.bytes as Uint8Array;
      return { codes: new Set((await decodeImage(diffuse, 'd.png')).data), means: notes[0].means };
    };
    // Half a metal all over leaves half of the light, which is sRGB 188.
    expect(await converted('st1')).toEqual({ codes: new Set([188]), means: ['metalness'] });
    expect((await converted(null)).means).toBeUndefined();
    expect((await converted(null)).codes).toContain(255);
  });

  it('gives equal work equal paths, and other work other ones', async () => {
    const { state, read } = await tinted();
    const path = async (value: [number, number, number]) => {
      const changed = structuredClone(state);
      (changed.materials[0].channels.baseColor as { value: unknown }).value = value;
      return (await makeMaps({ materials: ['Hull'], recipe: 'bake-tint', params: {} }, changed, read))
        .files[0].path;
    };
    expect(await path([0.5, 1, 1])).toBe(await path([0.5, 1, 1]));
    expect(await path([0.5, 1, 1])).not.toBe(await path([0.4, 1, 1]));
  });

  it('says what is missing and what cannot be', async () => {
    const { state, read } = await tinted();
    const make = (recipe: string, materials = ['Hull']) =>
      makeMaps({ materials, recipe, params: {} }, state, read);
    await expect(make('metal-rough')).rejects.toMatchObject({
      code: 'recipe.refused',
      message: expect.stringContaining('metal/rough already'),
    });
    await expect(make('bake-tint', ['Keel'])).rejects.toMatchObject({ code: 'recipe.material' });
    state.images[0] = { ...state.images[0], resolved: null, status: 'missing', tiles: undefined };
    await expect(make('bake-tint')).rejects.toMatchObject({ code: 'recipe.missing' });
  });

  it('stops when progress throws', async () => {
    const { state, read } = await tinted();
    const progress = () => {
      throw new Error('enough');
    };
    await expect(
      makeMaps({ materials: ['Hull'], recipe: 'bake-tint', params: {} }, state, read, { progress }),
    ).rejects.toThrow('enough');
  });

  it('changes the shading model and the slots in one edit', async () => {
    const material = testMaterial('Lamp');
    Object.assign(material, { workflow: 'legacy', exponent: 30 });
    material.channels.specularColor = {
      value: [0.5, 0.5, 0.5],
      map: null,
      source: { from: 'file', detail: '' },
    };
    const state = testState([material]);
    const { edit, files } = await makeMaps(
      { materials: ['Lamp'], recipe: 'metal-rough', params: {} },
      state,
      async () => new Uint8Array(),
    );
    expect(files).toEqual([]);
    const after = replay(testSource(state), edit ? [edit] : [], []).state.materials[0];
    expect(after).toMatchObject({ workflow: 'metalRough', exponent: null });
    expect(after.channels.roughness?.value).toBeCloseTo(0.5, 9);
    expect(after.channels.specularColor).toBeUndefined();
  });
});

describe('kept materials', () => {
  it('bring their images and take the place of others by name', () => {
    const state = testState([
      testMaterial('Flag_palette', { baseColor: { image: 'maps/palette.png', filter: 'nearest' } }),
      testMaterial('Flag_broken', { roughness: 'x.png' }),
    ]);
    const palette = testImage('maps/palette.png');
    const kept = keepMaterial(state.materials[0], state, [palette]);
    expect(kept.images).toEqual([{ name: 'palette.png', sha256: palette.sha256, size: 100 }]);
    expect(materialsNamed(state, '*_broken')).toEqual(['Flag_broken']);
    expect(materialsNamed(state, '')).toEqual([]);
    const edit = parseEdit({
      kind: 'replaceMaterials',
      materials: ['Flag_broken', 'Gone'],
      by: placeMaterial(kept, (name) => `made/${name}`),
      origin: { from: 'rule', detail: '*_broken' },
    });
    const { state: after, skipped } = replay(
      testSource(state),
      [edit],
      [palette, testImage('made/palette.png')],
    );
    const replaced = after.materials[1];
    expect(Object.keys(replaced.channels)).toEqual(['baseColor']);
    expect(replaced.channels.baseColor?.map).toMatchObject({
      image: 'parcel:made/palette.png',
      filter: 'nearest',
    });
    expect(replaced.name).toBe('Flag_broken');
    expect(skipped.map(({ what }) => what)).toEqual(['material Gone']);
  });
});
