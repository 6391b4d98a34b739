/** Asks the viewport to frame the whole asset; it listens while it is shown. */
const listeners = new Set<() => void>();

export function frameAll(): void {
  for (const listener of listeners) listener();
}

export function onFrameAll(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** Places that the camera can be put to. */
export const CAMERA_PRESETS = ['corner', 'front', 'back', 'left', 'right', 'above', 'below'] as const;
export type CameraPreset = (typeof CAMERA_PRESETS)[number];

const presetListeners = new Set<(preset: CameraPreset) => void>();
/** What was asked for while the model was still on its way. */
let awaited: CameraPreset | null = null;

/**
 * Puts the camera of the view to a place, the whole asset in the picture; a model that is still to come is
 * shown from there when it arrives.
 */
export function takePreset(preset: CameraPreset): void {
  awaited = presetListeners.size === 0 ? preset : null;
  for (const listener of presetListeners) listener(preset);
}

export function onPreset(listener: (preset: CameraPreset) => void): () => void {
  presetListeners.add(listener);
  if (awaited) listener(awaited);
  awaited = null;
  return () => presetListeners.delete(listener);
}
