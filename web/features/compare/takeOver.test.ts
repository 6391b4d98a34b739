import { initialState } from '@kinkajou/core/asset/asset';
import { replay } from '@kinkajou/core/edits/log';
import { parseEdit } from '@kinkajou/core/edits/schema';
import type { ChannelName, Rgb } from '@kinkajou/core/scene/material';
import { testMaterial, testSource, testState } from '@kinkajou/core/test/assets';
import { describe, expect, it } from 'vitest';
import { takeOverEdit } from './takeOver.ts';

const hull = testMaterial('Hull', { roughness: 'rough.png' });
hull.channels.metalness = { value: 0, map: null, source: { from: 'file', detail: '' } };
const source = testSource(testState([hull]));

/** The channel after the edit, sent as a page sends it. */
function after(channel: ChannelName, value: number | Rgb) {
  const edit = takeOverEdit('Hull', channel, value, source.materials);
  return replay(source, [parseEdit(JSON.parse(JSON.stringify(edit)))], []).state.materials[0].channels[
    channel
  ];
}

describe('what is taken over', () => {
  it('is the value, where there was a value, an image or nothing', () => {
    expect(after('metalness', 1)).toMatchObject({ value: 1, map: null });
    expect(after('roughness', 0.25)).toMatchObject({ value: 0.25, map: null });
    expect(after('baseColor', [0.5, 0.25, 0.125])).toMatchObject({ value: [0.5, 0.25, 0.125], map: null });
  });

  it('leaves all else as it was', () => {
    const edit = takeOverEdit('Hull', 'metalness', 1, source.materials);
    const { state } = replay(source, [edit], []);
    expect(state.materials[0].channels.roughness).toEqual(
      initialState(source).materials[0].channels.roughness,
    );
    expect(edit.origin.detail).toBe('taken over from what came back');
  });
});
