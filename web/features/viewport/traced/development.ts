import { NoBlending, ShaderMaterial, type Texture, type WebGLRenderer, type WebGLRenderTarget } from 'three';
import { FullScreenQuad } from 'three/addons/postprocessing/Pass.js';

/** The picture with a white ground in it, and how bright that is where nothing stands on it. */
interface Ground {
  texture: Texture;
  bare: number;
}

const VERTEX = 'varying vec2 vPlace; void main() { vPlace = uv; gl_Position = vec4( position, 1.0 ); }';
const PLAIN = { vertexShader: VERTEX, blending: NoBlending, depthTest: false, depthWrite: false } as const;

/**
 * Traced light as it is asked for, colour times alpha: through the view's transform on the screen, as it is
 * in a target of floats. What the ground lacks of its own brightness is shadow, which is black and lets the
 * rest of what lies behind it through; its grain is smoothed over a few pixels.
 */
export class Development {
  private readonly quad: FullScreenQuad;

  constructor(light: Texture, ground: Ground | null) {
    this.quad = new FullScreenQuad(
      new ShaderMaterial({
        ...PLAIN,
        uniforms: {
          light: { value: light },
          withGround: { value: ground?.texture ?? light },
          bare: { value: ground?.bare ?? 0 },
        },
        fragmentShader: `uniform sampler2D light; uniform sampler2D withGround; uniform float bare;
varying vec2 vPlace;
const vec3 BRIGHTNESS = vec3( 0.2126, 0.7152, 0.0722 );
vec4 weighed( vec4 colour ) { return vec4( colour.rgb * colour.a, colour.a ); }
float shadow() {
  ivec2 last = textureSize( light, 0 ) - 1;
  ivec2 middle = ivec2( vPlace * vec2( last + 1 ) );
  vec4 ground = vec4( 0.0 );
  for ( int y = -3; y <= 3; y ++ ) for ( int x = -3; x <= 3; x ++ ) {
    ivec2 place = clamp( middle + ivec2( x, y ), ivec2( 0 ), last );
    ground += max( weighed( texelFetch( withGround, place, 0 ) ) - weighed( texelFetch( light, place, 0 ) ), 0.0 );
  }
  if ( ground.a <= 0.0 ) return 0.0;
  return clamp( 1.0 - dot( ground.rgb, BRIGHTNESS ) / ( ground.a * bare ), 0.0, 1.0 );
}
void main() {
  gl_FragColor = texture2D( light, vPlace );
  float covered = gl_FragColor.a;
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
  gl_FragColor.rgb *= covered;
  if ( bare > 0.0 ) gl_FragColor.a = covered + max( texture2D( withGround, vPlace ).a - covered, 0.0 ) * shadow();
}`,
      }),
    );
  }

  /** Draws it into whatever is drawn into. */
  render(renderer: WebGLRenderer): void {
    this.quad.render(renderer);
    (this.quad.material as ShaderMaterial).dispose();
    this.quad.dispose();
  }
}

/** Keeps a picture while another is drawn in its place. */
export function copyInto(renderer: WebGLRenderer, picture: Texture, target: WebGLRenderTarget): void {
  const quad = new FullScreenQuad(
    new ShaderMaterial({
      ...PLAIN,
      uniforms: { picture: { value: picture } },
      fragmentShader:
        'uniform sampler2D picture; varying vec2 vPlace; void main() { gl_FragColor = texture2D( picture, vPlace ); }',
    }),
  );
  renderer.setRenderTarget(target);
  quad.render(renderer);
  renderer.setRenderTarget(null);
  (quad.material as ShaderMaterial).dispose();
  quad.dispose();
}
