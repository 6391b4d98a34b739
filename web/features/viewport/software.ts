import type { WebGLRenderer } from 'three';

/** Whether no graphics card draws here, so that following light takes minutes. */
export function drawsInSoftware(renderer: WebGLRenderer): boolean {
  const context = renderer.getContext();
  const known = context.getExtension('WEBGL_debug_renderer_info');
  const name = known ? String(context.getParameter(known.UNMASKED_RENDERER_WEBGL)) : '';
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}
