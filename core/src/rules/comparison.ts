import { KinkajouError } from '../errors.ts';

const SIGNS: Record<string, (a: number, b: number) => boolean> = {
  '>=': (a, b) => a >= b,
  '<=': (a, b) => a <= b,
  '>': (a, b) => a > b,
  '<': (a, b) => a < b,
  '=': (a, b) => a === b,
};

/** `>=0.9`, `<20` or `=1` as a test; a number alone must be met. Throws `comparison.invalid`. */
export function parseComparison(text: string): (value: number) => boolean {
  const [, sign = '=', number] = /^\s*(>=|<=|>|<|=)?\s*(-?\d+(?:\.\d+)?(?:e-?\d+)?)\s*$/i.exec(text) ?? [];
  if (number === undefined)
    throw new KinkajouError(
      'comparison.invalid',
      `"${text.slice(0, 40)}" compares with no number`,
      {},
      'Write it as ">=0.9" or "<20".',
    );
  const test = SIGNS[sign];
  return (value) => test(value, Number(number));
}
