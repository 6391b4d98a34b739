'use client';

import type { PerspectiveCamera, Scene, Texture, Vector3, WebGLRenderer } from 'three';
import { create } from 'zustand';

/** What the view draws with, for whoever takes pictures of it; null while the view is folded away. */
export interface Stage {
  gl: WebGLRenderer;
  scene: Scene;
  camera: PerspectiveCamera;
  /** What the camera looks at. */
  target(): Vector3;
  /** Brings the view back to its own size and draws it again. */
  restore(): void;
}

/** `sky` is what is around the view, with its numbers at hand, once it is there. */
export const useStage = create<{ stage: Stage | null; sky: Texture | null }>()(() => ({
  stage: null,
  sky: null,
}));
