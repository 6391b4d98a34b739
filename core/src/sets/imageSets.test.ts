import { describe, expect, it } from 'vitest';
import type { ParcelImage } from '../asset/asset.ts';
import { detectMaps } from '../maps/detectMaps.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import { testImage } from '../test/assets.ts';
import { formSets } from './imageSets.ts';

const SIZE = 128;
type Paint = (x: number, y: number) => number[];

/** Sets of files as `label: channel file, ...`, in their order. */
function sets(...given: Parameters<typeof formed>): string[] {
  return formed(...given).map(
    ({ label, members }) =>
      `${label}: ${members.map(({ map, reading }) => `${reading.channel} ${map.path}`).join(', ')}`,
  );
}

/** What the only set has in each channel, and how surely. */
function confidences(...given: Parameters<typeof formed>): Record<string, [string, number]> {
  const [{ members }] = formed(...given);
  return Object.fromEntries(
    members.map(({ map, reading, confidence }) => [reading.channel, [map.path, confidence]]),
  );
}

function formed(
  paths: readonly string[],
  paints: Record<string, Paint> = {},
  same: Record<string, string> = {},
) {
  const facts = new Map<string, PixelFacts>();
  const files = new Map<string, ParcelImage>();
  for (const path of paths) {
    const file = { ...testImage(path), ...(same[path] ? { sha256: same[path] } : {}) };
    files.set(path, file);
    const paint = paints[path];
    if (!paint) continue;
    const values: number[] = [];
    for (let y = 0; y < SIZE; y += 1) for (let x = 0; x < SIZE; x += 1) values.push(...paint(x, y));
    facts.set(
      file.sha256,
      lookAtPixels({
        width: SIZE,
        height: SIZE,
        components: values.length / SIZE ** 2,
        data: Uint8Array.from(values),
      }),
    );
  }
  const maps = detectMaps(
    [...files.values()].map(({ path, info, sha256 }) => ({ path, info, facts: facts.get(sha256) ?? null })),
  );
  return formSets({ maps, files, facts });
}

describe('images as sets', () => {
  it('are told by the words of their names, and by their folder where these say the channel alone', () => {
    expect(sets(['hull_color.png', 'hull_n.png', 'hull_r.png', 'deck_color.png'])).toEqual([
      'hull: baseColor hull_color.png, roughness hull_r.png, normal hull_n.png',
      'deck: baseColor deck_color.png',
    ]);
    expect(sets(['textures/Hull/4k/albedo.png', 'textures/Hull/4k/normal.png'])).toEqual([
      'hull: baseColor textures/Hull/4k/albedo.png, normal textures/Hull/4k/normal.png',
    ]);
  });

  it('are joined over folders that add channels, and stay rivals where two have the same', () => {
    expect(sets(['color/hull.png', 'normal/hull.png'])).toEqual([
      'hull: baseColor color/hull.png, normal normal/hull.png',
    ]);
    expect(sets(['a/hull_color.png', 'b/hull_color.png', 'hull_normal.png'])).toHaveLength(3);
    expect(
      sets(
        ['a/hull_color.png', 'b/hull_color.png'],
        {},
        { 'a/hull_color.png': 'x', 'b/hull_color.png': 'x' },
      ),
    ).toHaveLength(1);
  });

  it('leave out what lies in a folder of old things and is called so elsewhere, and lesser levels of detail', () => {
    expect(sets(['hull_color.png', 'hull_normal.png', '_old/hull_color.png'])).toEqual([
      'hull: baseColor hull_color.png, normal hull_normal.png',
    ]);
    expect(sets(['hull_normal.png', 'backup/hull_color.png'])).toEqual([
      'hull: baseColor backup/hull_color.png, normal hull_normal.png',
    ]);
    expect(sets(['hull_color.png', 'archive/hull_color.png'])).toHaveLength(2);
    const checks: Paint = (x, y) => [((x >> 4) + (y >> 4)) % 2 ? 250 : 10, 60, 90];
    const other: Paint = (x, y) => [(x * 2) & 255, (y * 2) & 255, 30];
    expect(
      sets(['hull_LOD1_color.png', 'hull_LOD0_color.png'], {
        'hull_LOD1_color.png': checks,
        'hull_LOD0_color.png': other,
      }),
    ).toEqual(['hull: baseColor hull_LOD0_color.png']);
  });

  it('take Y+ of two directions, the diffuse only beside gloss, and a version as a set of its own', () => {
    expect(sets(['hull_color.png', 'hull_normal_dx.png', 'hull_normal_gl.png'])).toEqual([
      'hull: baseColor hull_color.png, normal hull_normal_gl.png',
    ]);
    const both = ['basecolor', 'metallic', 'roughness', 'diffuse', 'specular', 'glossiness'].map(
      (word) => `hull_${word}.png`,
    );
    expect(sets(both)).toEqual([
      'hull: baseColor hull_basecolor.png, metalness hull_metallic.png, roughness hull_roughness.png',
    ]);
    const shade =
      (k: number): Paint =>
      (x, y) => [(x * k) % 256, (y * 5) % 256, k * 40];
    expect(
      sets(['hull_v1_color.png', 'hull_v2_color.png', 'hull_normal.png'], {
        'hull_v1_color.png': shade(3),
        'hull_v2_color.png': shade(5),
      }),
    ).toEqual([
      'hull: normal hull_normal.png',
      'hull v1: baseColor hull_v1_color.png, normal hull_normal.png',
      'hull v2: baseColor hull_v2_color.png, normal hull_normal.png',
    ]);
  });

  it('are one of two models only where each folder tells its own', () => {
    const folder = (name: string, ...words: string[]) => words.map((word) => `${name}/hull_${word}.png`);
    const metal = folder('a', 'color', 'metallic', 'roughness');
    expect(sets([...metal, ...folder('b', 'color', 'specular', 'glossiness')])).toHaveLength(1);
    // What tells no model is a rival, and so is a specular colour with roughness.
    expect(sets([...metal, ...folder('b', 'color', 'normal')])).toHaveLength(2);
    expect(sets([...metal, ...folder('b', 'color', 'specular', 'roughness')])).toHaveLength(2);
  });

  it('doubt two images of a channel, unless a level of detail or the sureness of a name parts them', () => {
    const shade =
      (k: number): Paint =>
      (x, y) => [(x * k) & 255, (y * 3) & 255, k * 20];
    const doubted = (...paths: string[]) => {
      const paints = Object.fromEntries(paths.map((path, i) => [path, shade(i * 2 + 1)]));
      return confidences([...paths, 'hull_normal.png', 'hull_rough.png'], paints).baseColor;
    };
    const sure = doubted('hull_albedo.png');
    expect(sure[1]).toBeGreaterThanOrEqual(0.8);
    expect(doubted('hull_albedo.png', 'hull_basecolor.png')[1]).toBeLessThan(0.8);
    expect(doubted('hull_LOD0_albedo.png', 'hull_LOD1_albedo.png')).toEqual([
      'hull_LOD0_albedo.png',
      expect.closeTo(sure[1]),
    ]);
    expect(doubted('hull_albedo.png', 'hull_c.png')).toEqual(sure);
  });

  it('hold the one image that says nothing as a guess', () => {
    expect(sets(['hull.png'])).toEqual(['hull: baseColor hull.png']);
    expect(sets(['hull_kleur.png', 'hull_normal.png', 'hull_rough.png'])).toEqual([
      'hull: baseColor hull_kleur.png, roughness hull_rough.png, normal hull_normal.png',
    ]);
    expect(sets(['hull_preview.png', 'hull_curvature.png'])).toEqual([]);
  });

  it('join nameless images whose detail lies in the same places', () => {
    const inside = (x: number, y: number) => x > 16 && x < 80 && y > 40 && y < 112;
    const colour: Paint = (x, y) =>
      inside(x, y) ? [120 + ((x * 31 + y * 17) % 100), 60 + ((x * 13) % 50), 30] : [20, 60, 140];
    const normal: Paint = (x, y) => {
      if (!inside(x, y)) return [128, 128, 255];
      const [p, q] = [0.4 * Math.cos(x / 2) * Math.cos(y / 3), 0.4 * Math.sin(x / 2) * Math.sin(y / 3)];
      const length = Math.hypot(p, q, 1);
      return [127.5 + (127.5 * p) / length, 127.5 + (127.5 * q) / length, 127.5 + 127.5 / length].map(
        Math.round,
      );
    };
    expect(
      sets(['IMG_0231.png', 'IMG_0777.png'], { 'IMG_0231.png': colour, 'IMG_0777.png': normal }),
    ).toEqual(['img 0231: baseColor IMG_0231.png, normal IMG_0777.png']);
    const elsewhere: Paint = (x, y) => normal(127 - x, 127 - y);
    expect(
      sets(['IMG_0231.png', 'IMG_0777.png'], { 'IMG_0231.png': colour, 'IMG_0777.png': elsewhere }),
    ).toHaveLength(2);
  });
});
