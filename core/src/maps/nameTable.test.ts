import { describe, expect, it } from 'vitest';
import { NAME_TABLE } from '../test/nameTable.ts';
import { RARE_NAMES } from '../test/rareNames.ts';
import { classifyNames, type NameClass } from './classifyName.ts';

/** From this on the application acts without asking. */
const ACTS = 0.8;

function inWords({ readings, packed }: NameClass): string {
  if (packed || readings.length > 1)
    return readings.map(({ component, channel }) => `${component}:${channel}`).join(' ');
  const [one] = readings;
  if (!one) return '-';
  return `${one.invert ? '~' : ''}${one.channel}${one.normalY === 'Y+' ? '+' : one.normalY === 'Y-' ? '-' : ''}`;
}

describe('names of many schemes', () => {
  const groups = `${NAME_TABLE}\n${RARE_NAMES}`
    .trim()
    .split(/\n\s*\n/)
    .map((group) => group.split('\n').map((line) => line.split(' = ') as [string, string]));

  it('are right on at least 95% of the table, and never sure when wrong', () => {
    let total = 0;
    const wrong: string[] = [];
    const sure: string[] = [];
    for (const group of groups) {
      classifyNames(group.map(([name]) => name)).forEach((found, i) => {
        const [name, expected] = group[i];
        total += 1;
        const got = inWords(found);
        // `a?b`: both are meant by some; either will do, so long as it is asked about.
        if (
          expected.includes('?')
            ? found.confidence < ACTS && expected.split('?').includes(got)
            : got === expected
        )
          return;
        wrong.push(`${name}: ${got}, not ${expected} (${found.confidence}; ${found.evidence.join('; ')})`);
        if (found.confidence >= ACTS) sure.push(wrong[wrong.length - 1]);
      });
    }
    expect(sure).toEqual([]);
    expect(total).toBeGreaterThanOrEqual(300);
    expect(1 - wrong.length / total, wrong.join('\n')).toBeGreaterThanOrEqual(0.95);
  });

  it('are doubted where a word describes the thing', () => {
    for (const name of [
      'rusty_metal.png',
      'rough_rope.png',
      'diving_mask.png',
      'oilskin_coat.png',
      'harbour_light.png',
      'smooth_01.png',
    ]) {
      const [found] = classifyNames([name]);
      expect(found.confidence, name).toBeLessThan(ACTS);
    }
  });
});
