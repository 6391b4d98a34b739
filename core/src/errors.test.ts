import { expect, it } from 'vitest';
import { describeCut, describePlace, KinkajouError, toKinkajouError } from './errors.ts';

const bytes = (text: string) => new TextEncoder().encode(text);

it('says file and place before the reason, and the remedy behind it', () => {
  const fault = new KinkajouError(
    'fbx.cut',
    'it ends early',
    { file: 'hull.fbx', offset: 12 },
    'Copy it again.',
  );
  expect(fault.toText()).toBe('hull.fbx, byte 12: it ends early. Copy it again.');
  expect(describePlace({ line: 3 })).toBe('line 3:');
  expect(new KinkajouError('a.b', 'no').toText()).toBe('no.');
});

it('tells how much stands before a fault, by bytes and by lines', () => {
  const fault = (place: { line?: number; offset?: number }) =>
    new KinkajouError('a.b', 'a bracket is missing', { file: 'a.usda', ...place });
  expect(describeCut(fault({ offset: 30 }), new Uint8Array(40))).toBe(
    'byte 30: a bracket is missing; what stands before it was read, the first 75 % of the file',
  );
  // Two lines of four letters stand before the third.
  expect(describeCut(fault({ line: 3 }), bytes('abc\ndef\nghi\njkl\n'))).toBe(
    'line 3: a bracket is missing; what stands before it was read, the first 50 % of the file',
  );
  expect(describeCut(fault({ line: 99 }), bytes('abc\ndef'))).toMatch(/the first 57 % of the file$/);
  expect(describeCut(fault({}), bytes('abc'))).toBe('a bracket is missing; what stands before it was read');
});

it('keeps typed errors and adds the file that they lack', () => {
  const typed = new KinkajouError('a.b', 'no', { line: 2 });
  expect(toKinkajouError(typed, 'x', { file: 'f.obj' })).toMatchObject({
    code: 'a.b',
    place: { file: 'f.obj', line: 2 },
  });
  const placed = new KinkajouError('a.b', 'no', { file: 'g.obj' });
  expect(toKinkajouError(placed, 'x', { file: 'f.obj' })).toBe(placed);
});
