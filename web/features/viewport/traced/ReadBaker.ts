import {
  HalfFloatType,
  LinearFilter,
  NoBlending,
  RepeatWrapping,
  ShaderMaterial,
  type Texture,
  type WebGLRenderer,
  WebGLRenderTarget,
} from 'three';
import { FullScreenQuad } from 'three/addons/postprocessing/Pass.js';
import { isColourRead, READ_GLSL, type Reads, readNumbers } from '../shaderReads.ts';

/** Longest side of a picture that rays read. */
const MOST_TEXELS = 2048;

/**
 * Draws what channels read of their images into pictures of their own, as three's materials read them without
 * any change of their shaders: colours as light, numbers alike in all components.
 */
export class ReadBaker {
  private readonly quad = new FullScreenQuad();
  private readonly targets = new Map<string, WebGLRenderTarget>();

  constructor(private readonly renderer: WebGLRenderer) {}

  /** How many pictures there are. */
  get count(): number {
    return this.targets.size;
  }

  /** The picture of one read; equal reads of a texture share one. */
  bake(channel: string, texture: Texture, read: Reads[string]): Texture {
    const key = JSON.stringify([channel, texture.uuid, read]);
    let target = this.targets.get(key);
    if (!target) {
      target = this.draw(texture, bakingMaterial(channel, texture, read));
      this.targets.set(key, target);
    }
    return target.texture;
  }

  private draw(source: Texture, material: ShaderMaterial): WebGLRenderTarget {
    const { width, height } = source.image as { width: number; height: number };
    const shrink = Math.min(1, MOST_TEXELS / Math.max(width, height));
    const target = new WebGLRenderTarget(Math.ceil(width * shrink), Math.ceil(height * shrink), {
      type: HalfFloatType,
      minFilter: LinearFilter,
      magFilter: LinearFilter,
      wrapS: RepeatWrapping,
      wrapT: RepeatWrapping,
      depthBuffer: false,
    });
    const { texture } = target;
    texture.offset.copy(source.offset);
    texture.repeat.copy(source.repeat);
    texture.center.copy(source.center);
    texture.rotation = source.rotation;
    this.quad.material = material;
    this.renderer.setRenderTarget(target);
    this.quad.render(this.renderer);
    this.renderer.setRenderTarget(null);
    material.dispose();
    return target;
  }

  dispose(): void {
    for (const target of this.targets.values()) target.dispose();
    this.quad.dispose();
  }
}

/** Normals are taken as they are stored; the material says which way their green points. */
function wordsOf(channel: string): string {
  if (channel === 'normal') return 'vec4( texel.rgb, 1.0 )';
  return isColourRead(channel)
    ? 'vec4( kjColour( texel, mask, how, decode, primaries ), 1.0 )'
    : 'vec4( kjScalar( texel, mask, how ) )';
}

function bakingMaterial(channel: string, picture: Texture, read: Reads[string]): ShaderMaterial {
  const numbers = readNumbers(channel, read);
  return new ShaderMaterial({
    uniforms: {
      picture: { value: picture },
      ...Object.fromEntries(Object.entries(numbers).map(([name, value]) => [name, { value }])),
    },
    vertexShader: 'varying vec2 vPlace; void main() { vPlace = uv; gl_Position = vec4( position, 1.0 ); }',
    fragmentShader: `${READ_GLSL}
uniform sampler2D picture; uniform vec4 mask; uniform vec2 how; uniform vec2 decode; uniform mat3 primaries;
varying vec2 vPlace;
void main() {
  vec4 texel = texture2D( picture, vPlace );
  gl_FragColor = ${wordsOf(channel)};
}`,
    blending: NoBlending,
    depthTest: false,
    depthWrite: false,
  });
}
