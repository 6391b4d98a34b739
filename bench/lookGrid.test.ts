import { describe, expect, it } from 'vitest';
import { allCells, type Cell, cellName } from './plates/cells.ts';
import { compareStripe, measureCell } from './plates/grid.ts';
import { truthOf } from './plates/truth.ts';

/**
 * One cell in so many runs here; all of them with `npm run grid`. The step shares no factor with the number
 * of destinations.
 */
const STEP = 17;

describe('plates in every format, way of writing and transparency, to every destination', () => {
  const sample = allCells().filter((_, i) => i % STEP === 0);
  it.each(sample.map((cell) => [cellName(cell), cell] as const))('%s', async (_, cell) => {
    expect((await measureCell(cell)).wrong).toEqual([]);
  });
});

describe('the measure itself', () => {
  const cell: Cell = {
    format: 'gltf',
    written: 'metalRough',
    values: 'map',
    clear: 'blend',
    goal: { destination: 'web-gltf', variant: 'glb' },
  };
  const { base, metalness, roughness, opacity } = truthOf(cell, 3);

  it('holds gold at roughness 0.2 to the numbers of the book', () => {
    const gold = truthOf({ ...cell, values: 'value', clear: 'opaque' }, 0);
    expect(gold.diffuse).toEqual([0, 0, 0]);
    expect(gold.specular.map((component) => component.toFixed(3))).toEqual(['0.963', '0.787', '0.408']);
    // Ns = 2 / 0.2^4 - 2.
    expect(2 / gold.roughness ** 4 - 2).toBeCloseTo(1248, 6);
  });

  it('sees a colour, a metal, a roughness or an alpha that is off', () => {
    const right = { base, metalness, roughness, opacity };
    expect(compareStripe(cell, 3, right, [])).toEqual([]);
    expect(compareStripe(cell, 3, { ...right, base: [base[0], base[1], base[2] * 0.9] }, [])).toHaveLength(1);
    expect(compareStripe(cell, 3, { ...right, metalness: 0 }, [])).toHaveLength(1);
    expect(compareStripe(cell, 3, { ...right, roughness: 1 - roughness }, [])).toHaveLength(1);
    expect(compareStripe(cell, 3, { ...right, opacity: 1 }, [])).toHaveLength(1);
  });

  it('takes a loss for told only where the package tells it', () => {
    const classic: Cell = { ...cell, goal: { destination: 'garment-figure', variant: 'fbx' } };
    expect(compareStripe(classic, 3, { base, opacity }, [])).toHaveLength(1);
    expect(
      compareStripe(classic, 3, { base, opacity }, ['Plate: the map of metalness has no place']),
    ).toEqual([]);
  });
});
