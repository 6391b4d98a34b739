import { describe, expect, it } from 'vitest';
import { lookAtPixels } from '../maps/pixelFacts.ts';
import { testMaterial } from '../test/assets.ts';
import { groundOf } from './ownImages.ts';
import { portraitFolders, portraitIn, portraitsFor } from './portraits.ts';

const MODELS = ['quay/lamp/lamp.obj', 'quay/crane/scene.obj', 'quay/buoy/buoy.obj'];

describe('images that are called like models', () => {
  it('lie in one folder, by file or by folder, whatever is capital or between', () => {
    const images = [
      'quay/Lamp.png',
      'quay/crane.jpg',
      'quay/chart.png',
      'quay/lamp/lamp.png',
      'plan/lamp.png',
    ];
    expect(portraitFolders(MODELS, images)).toEqual([{ folder: 'quay', others: ['chart.png'] }]);
  });

  it('are too few, or too few among others', () => {
    expect(portraitFolders(MODELS, ['quay/lamp.png', 'quay/chart.png'])).toEqual([]);
    expect(portraitFolders(MODELS, ['quay/lamp.png', 'quay/lamp.jpg'])).toEqual([]);
    expect(portraitFolders(MODELS.slice(0, 1), ['quay/lamp.png', 'quay/scene.png'])).toEqual([]);
    const two = ['tex/lamp.png', 'tex/buoy.png'];
    expect(portraitFolders(MODELS, [...two, 'tex/a.png', 'tex/b.png'])).toHaveLength(1);
    expect(portraitFolders(MODELS, [...two, 'tex/a.png', 'tex/b.png', 'tex/c.png'])).toEqual([]);
  });

  it('are told where a model has its images', () => {
    const images = ['quay/lamp.png', 'quay/buoy.png', 'quay/lamp/glow.png'];
    const portraits = [{ folder: 'quay', others: [] }];
    expect(groundOf(MODELS[0], MODELS, images)).toEqual({ home: 'quay/lamp', commons: ['quay'], portraits });
    expect(groundOf('a.obj', ['a.obj', 'b.obj'], ['a.png', 'b.png'])).toEqual({
      home: '',
      modelsAtHome: 2,
      portraits: [{ folder: '', others: [] }],
    });
  });

  it('are this one’s, one of its materials’, or another’s', () => {
    const portraits = [{ folder: 'quay', others: ['chart.png'] }];
    const of = portraitsFor({ model: MODELS[0], materials: [testMaterial('Buoy')], portraits });
    expect(['lamp', 'buoy', 'crane', 'chart'].map((name) => of(`quay/${name}.png`))).toEqual([
      'own',
      'own',
      'other',
      null,
    ]);
    expect(of('quay/lamp/crane.png')).toBeNull();
    expect(portraitsFor({ model: MODELS[0], materials: [] })('quay/crane.png')).toBeNull();
  });
});

describe('the picture of a thing', () => {
  const picture = (size: number, paint: (x: number, y: number) => number[]) => {
    const data = Uint8Array.from({ length: size * size }, (_, i) => i).reduce<number[]>((all, _, i) => {
      all.push(...paint((i % size) / size, Math.floor(i / size) / size));
      return all;
    }, []);
    const components = data.length / (size * size);
    return lookAtPixels({ width: size, height: size, components, data: Uint8Array.from(data) });
  };
  const within = (x: number, y: number) => Math.hypot(x - 0.5, y - 0.5) < 0.35;
  const brass = (x: number) => [180, 120 + 80 * x, 40];

  it('stands before a clear ground or a plain one, and may reach its border', () => {
    expect(portraitIn(picture(64, (x, y) => [...brass(x), within(x, y) ? 255 : 0]))).toBe(1);
    expect(portraitIn(picture(64, (x, y) => (within(x, y) ? brass(x) : [240, 240, 238])))).toBe(1);
    // A mast goes from the bottom to the top.
    expect(portraitIn(picture(64, (x) => [...brass(x), Math.abs(x - 0.5) < 0.2 ? 255 : 0]))).toBe(1);
    expect(portraitIn(picture(64, (x) => [...brass(x), x < 0.4 ? 255 : 0]))).toBe(0);
    // What reaches nearly all of two sides is no picture, though the corners are clear.
    expect(portraitIn(picture(64, (x) => [...brass(x), Math.abs(x - 0.5) < 0.45 ? 255 : 0]))).toBe(0);
  });

  it('is no image that covers everything, nor one colour', () => {
    expect(portraitIn(picture(64, (x, y) => [...brass(x * y), 255]))).toBe(0);
    expect(portraitIn(picture(64, () => [90, 90, 90]))).toBe(0);
    expect(portraitIn(picture(64, (x, y) => [90 + (within(x, y) ? 20 : 0), 90, 90]))).toBe(0);
    expect(portraitIn(picture(64, (x, y) => [90 + (within(x, y) ? 30 : 0), 90, 90]))).toBe(1);
    expect(portraitIn(picture(64, () => [90, 90, 90, 0]))).toBe(0);
  });

  it('may be a leaf on a card where it is large', () => {
    const leaf = (x: number, y: number) => [40, 120, 30, within(x, y) ? 255 : 0];
    expect(portraitIn(picture(512, leaf))).toBe(1);
    expect(portraitIn(picture(513, leaf))).toBe(0.5);
  });
});
