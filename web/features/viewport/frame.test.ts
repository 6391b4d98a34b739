import { expect, test } from 'vitest';
import { type CameraPreset, onPreset, takePreset } from './frame.ts';

test('a camera place asked for before the model is there is taken once, when it arrives', () => {
  takePreset('back');
  takePreset('front');
  const taken: CameraPreset[] = [];
  const end = onPreset((preset) => taken.push(preset));
  expect(taken).toEqual(['front']);
  takePreset('above');
  expect(taken).toEqual(['front', 'above']);
  end();

  const later: CameraPreset[] = [];
  onPreset((preset) => later.push(preset))();
  expect(later).toEqual([]);
});
