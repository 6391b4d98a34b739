import { findDestination } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { handedOff } from '../fuzz/failures.ts';
import { gltfViews } from './gltfViews.ts';
import { MAKERS } from './makers.ts';
import type { Known } from './soup.ts';
import { strangeFbxText } from './strangeFbxText.ts';
import { strangeGltf } from './strangeGltf.ts';
import { strangeObj } from './strangeObj.ts';
import { strangeUsd } from './strangeUsd.ts';
import { usdLooks } from './usdLooks.ts';
import { wrongIn } from './wrongIn.ts';

const some = (count: number, first: number) => Array.from({ length: count }, (_, i) => first + i);

describe('made-up models come out in glTF as their maker knows them', () => {
  it.each(some(24, 500))('USD %i', async (seed) => {
    expect(await wrongIn(strangeUsd(seed))).toEqual([]);
  });

  it.each(some(16, 500))('FBX %i', async (seed) => {
    expect(await wrongIn(strangeFbxText(seed))).toEqual([]);
  });

  // In the last one faces of a material have UVs on one part and none on another.
  it.each([...some(8, 500), 50257])('OBJ %i', async (seed) => {
    expect(await wrongIn(strangeObj(seed))).toEqual([]);
  });

  it.each(some(8, 500))('glTF %i', async (seed) => {
    expect(await wrongIn(strangeGltf(seed))).toEqual([]);
  });
});

describe('made-up looks, and meshes on bones, come out in glTF as their maker knows them', () => {
  it.each([
    ['usd-looks', 10],
    ['mtlx-looks', 10],
    ['gloss-looks', 8],
    ['gltf-looks', 5],
    ['edited-looks', 6],
    // The seventh and the last have their bytes in the other order.
    ['fbx-binary', 13],
    ['fbx-looks', 5],
    ['mtl-looks', 5],
    ['usd-views', 6],
    ['fbx-views', 4],
    ['gltf-views', 4],
    ['usd-rigs', 8],
    ['fbx-rigs', 4],
    ['gltf-rigs', 4],
  ])('%s', async (format, count) => {
    for (const seed of some(count, 1))
      expect({ seed, wrong: await wrongIn(MAKERS[format](seed)) }).toEqual({ seed, wrong: [] });
  });
});

describe('receipts of made-up models hold elsewhere, too', () => {
  const handed = async (known: Known, id: string) =>
    (await handedOff(known, findDestination(id) as Destination)).failures;

  it.each(some(5, 1))('FBX %i', async (seed) => {
    for (const id of ['compositor-usd', 'compositor-classic', 'modelling'])
      expect({ id, failures: await handed(strangeFbxText(seed), id) }).toEqual({ id, failures: [] });
  });

  it.each(some(5, 1))('USD %i', async (seed) => {
    for (const id of ['render-film', 'engine-packed', 'garment-figure'])
      expect({ id, failures: await handed(strangeUsd(seed), id) }).toEqual({ id, failures: [] });
  });
});

describe('what came out otherwise is told', () => {
  const altered = async (alter: (known: Known) => void) => {
    const known = strangeObj(500);
    alter(known);
    return (await wrongIn(known)).join('\n');
  };
  const first = ({ soup }: Known) => [...soup.values()][0];

  it('a corner elsewhere', async () => {
    expect(await altered((known) => first(known).corners[0].place.add(new Vector3(0, 3, 0)))).toMatch(
      /missing/,
    );
  });

  it('faces that turn the other way', async () => {
    expect(await altered((known) => first(known).area.negate())).toMatch(/area/);
  });

  it('another look at a place, unless it is told as lost', async () => {
    const known = usdLooks(1);
    const [place] = known.places;
    place.meets.roughness = 1 - (place.meets.roughness as number);
    expect((await wrongIn(known)).join()).toMatch(/^Paint0 .*: roughness \S+ became \S+$/);
    place.at[2] += 1;
    expect((await wrongIn(known)).join()).toMatch(/nothing is there/);
  });

  it('a lamp that shines or looks otherwise, one that is missing, and one too much', async () => {
    const known = gltfViews(9);
    const [[name, view], [other, second]] = known.views;
    Object.assign(view.numbers, { angle: 9, red: 9 });
    second.place.x += 1;
    known.views.delete([...known.views.keys()][2]);
    known.views.set('Ghost', view);
    const words = (await wrongIn(known)).join('\n');
    for (const part of [`${name}: `, `${other}: stands elsewhere`, 'is too much', 'Ghost: is missing'])
      expect(words).toContain(part);
  });

  it('a camera that looks otherwise at one moment of its motion', async () => {
    const known = gltfViews(8);
    const { second, views } = known.moments[2];
    const [name, view] = [...views].find(([, { up }]) => up) ?? [];
    view?.aim?.negate();
    expect(await wrongIn(known)).toEqual([`after ${second} s: ${name}: looks elsewhere`]);
  });

  it('another colour', async () => {
    const words = await altered(({ soup }) => {
      const [[key, paint]] = soup;
      soup.delete(key);
      soup.set('0.999 0.000 0.000', paint);
    });
    expect(words).toMatch(/0\.999 0\.000 0\.000: is missing/);
    expect(words).toMatch(/is too much/);
  });
});
