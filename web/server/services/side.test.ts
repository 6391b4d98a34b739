import { describe, expect, it } from 'vitest';
import { parseSide } from './side.ts';

const ID = '0b9d1c52-6f6e-4a53-9d0e-0e5b0f4b7a11';

describe('sides to compare', () => {
  it('are words, or a handoff or an asset with its id', () => {
    expect(['delivered', 'edited', 'careless', `handoff:${ID}`, `asset:${ID}`].map(parseSide)).toEqual([
      { kind: 'delivered' },
      { kind: 'edited' },
      { kind: 'careless' },
      { kind: 'handoff', id: ID },
      { kind: 'asset', id: ID },
    ]);
  });

  it.each(['', 'other', 'handoff:', 'handoff:12', `parcel:${ID}`, `asset:${ID}x`, `asset ${ID}`])(
    'are nothing else: %j',
    (text) => {
      expect(() => parseSide(text)).toThrow(/side to compare/);
    },
  );
});
