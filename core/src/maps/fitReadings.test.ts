import { describe, expect, it } from 'vitest';
import { activityOf, activitySteps } from './activity.ts';
import { fitReadings } from './fitReadings.ts';
import { houseWord, parseHouseWords } from './houseWords.ts';
import { plainReading } from './nameSpans.ts';
import { lookAtPixels } from './pixelFacts.ts';

const SIZE = 32;
const facts = (paint: (x: number, y: number) => number[]) => {
  const values: number[] = [];
  for (let y = 0; y < SIZE; y += 1) for (let x = 0; x < SIZE; x += 1) values.push(...paint(x, y));
  return lookAtPixels({
    width: SIZE,
    height: SIZE,
    components: values.length / SIZE ** 2,
    data: Uint8Array.from(values),
  });
};
const inWords = (readings: ReturnType<typeof fitReadings>['readings']) =>
  readings.map(({ component, channel }) => `${component} ${channel}`);

describe('readings as the pixels allow them', () => {
  const packed = [plainReading('baseColor'), plainReading('opacity', 'a')];
  const rough = [plainReading('roughness', 'g'), plainReading('metalness', 'b')];
  const noise = (x: number, y: number) => (x * 31 + y * 17) % 256;

  it('drops components that the image does not have, and an alpha that is 1 all over', () => {
    expect(
      inWords(
        fitReadings(
          packed,
          facts((x, y) => [noise(x, y), 10, 20]),
        ).readings,
      ),
    ).toEqual(['rgb baseColor']);
    expect(
      inWords(
        fitReadings(
          packed,
          facts((x, y) => [noise(x, y), 10, 20, 255]),
        ).readings,
      ),
    ).toEqual(['rgb baseColor']);
    expect(
      inWords(
        fitReadings(
          packed,
          facts((x, y) => [noise(x, y), 10, 20, noise(y, x)]),
        ).readings,
      ),
    ).toEqual(['rgb baseColor', 'a opacity']);
  });

  it('finds no occlusion in a component that was left black', () => {
    const orm = [plainReading('occlusion', 'r'), ...rough];
    const read = (red: (x: number, y: number) => number) =>
      inWords(
        fitReadings(
          orm,
          facts((x, y) => [red(x, y), noise(x, y), noise(y, x)]),
        ).readings,
      );
    expect(read((x) => x % 3)).toEqual(['g roughness', 'b metalness']);
    expect(read((x) => 40 + x)).toEqual(['r occlusion', 'g roughness', 'b metalness']);
    const inverted = [{ ...plainReading('occlusion', 'r'), invert: true }];
    expect(
      fitReadings(
        inverted,
        facts((x, y) => [x % 3, noise(x, y), 9]),
      ).readings,
    ).toEqual(inverted);
  });

  it('takes what is called transparent by its alpha where that varies', () => {
    const transparent = { ...plainReading('opacity'), invert: true };
    const varied = fitReadings(
      [transparent],
      facts((x, y) => [noise(x, y), noise(x, y), noise(x, y), noise(y, x)]),
    );
    expect(varied.readings).toEqual([{ ...transparent, component: 'a', invert: false }]);
    const opaque = fitReadings(
      [transparent],
      facts((x, y) => [noise(x, y), noise(x, y), noise(x, y), 255]),
    );
    expect(opaque.readings).toEqual([transparent]);
    const rough = fitReadings(
      [plainReading('roughness')],
      facts((x, y) => [noise(x, y), noise(x, y), noise(x, y), noise(y, x)]),
    );
    expect(inWords(rough.readings)).toEqual(['r roughness']);
  });

  it('finds a grey shape in the alpha of a plain image', () => {
    expect(
      inWords(
        fitReadings(
          [plainReading('opacity')],
          facts((x) => [255, 255, 255, x % 8 < 4 ? 0 : 255]),
        ).readings,
      ),
    ).toEqual(['a opacity']);
    expect(
      inWords(
        fitReadings(
          [plainReading('opacity')],
          facts((x) => [x % 8 < 4 ? 0 : 255, 255]),
        ).readings,
      ),
    ).toEqual(['r opacity']);
  });

  it('finds two scalars in red and green where blue holds nothing', () => {
    expect(
      inWords(
        fitReadings(
          rough,
          facts((x, y) => [noise(x, y), noise(y, x), 0]),
        ).readings,
      ),
    ).toEqual(['r roughness', 'g metalness']);
    expect(
      inWords(
        fitReadings(
          rough,
          facts((x, y) => [0, noise(x, y), noise(y, x)]),
        ).readings,
      ),
    ).toEqual(['g roughness', 'b metalness']);
  });
});

describe('activity', () => {
  it('is 0 where an image is flat and greatest where black meets white', () => {
    const data = Uint8Array.from({ length: 128 * 128 }, (_, i) => {
      if (i % 128 < 64) return 100;
      return i % 2 ? 255 : 0;
    });
    const steps = activitySteps(activityOf({ width: 128, height: 128, components: 1, data }));
    expect(steps).toHaveLength(64 * 64);
    expect(new Set(steps.filter((_, i) => i % 64 < 32))).toEqual(new Set([0]));
    expect(Math.min(...steps.filter((_, i) => i % 64 >= 32))).toBeGreaterThanOrEqual(14);
  });
});

describe('words of the house', () => {
  it('are kept as names are split', () => {
    expect(parseHouseWords({ 'Farb-Karte': 'baseColor', ruwheid: 'roughness' })).toEqual({
      farbkarte: 'baseColor',
      ruwheid: 'roughness',
    });
    expect(houseWord('RauHeit 2')).toBe('rauheit2');
  });

  it('are refused with the word that is wrong', () => {
    expect(() => parseHouseWords({ farbe: 'colour' })).toThrow(/farbe/);
    expect(() => parseHouseWords({ '--': 'baseColor' })).toThrow(/not valid/);
    expect(() => parseHouseWords(null)).toThrow(/not valid/);
  });
});
