import {
  HalfFloatType,
  Mesh,
  OrthographicCamera,
  type PerspectiveCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from 'three';

/** Colours from no difference to much: bark, sea, honey, brick, paper. */
const RAMP = `vec3 ramp(float t) {
  vec3 bark = vec3(0.063, 0.094, 0.078); vec3 sea = vec3(0.204, 0.439, 0.541); vec3 honey = vec3(0.847, 0.58, 0.165);
  vec3 brick = vec3(0.659, 0.247, 0.18); vec3 paper = vec3(1.0, 0.988, 0.957);
  if (t < 0.05) return mix(bark, sea, t / 0.05);
  if (t < 0.2) return mix(sea, honey, (t - 0.05) / 0.15);
  if (t < 0.5) return mix(honey, brick, (t - 0.2) / 0.3);
  return mix(brick, paper, (t - 0.5) / 0.5);
}`;

interface Shot {
  scene: Scene;
  lens: PerspectiveCamera;
}

/** Draws both sides aside and shows how far they lie apart, as light before the view's curve. */
export function createDifference() {
  const size = new Vector2();
  const targets = [0, 1].map(() => new WebGLRenderTarget(1, 1, { type: HalfFloatType, samples: 4 }));
  const material = new ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    uniforms: { a: { value: targets[0].texture }, b: { value: targets[1].texture }, scale: { value: 1 } },
    vertexShader: 'varying vec2 vAt; void main() { vAt = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: `uniform sampler2D a; uniform sampler2D b; uniform float scale; varying vec2 vAt;
${RAMP}
void main() {
  vec4 d = abs(texture2D(a, vAt) - texture2D(b, vAt));
  float cover = max(texture2D(a, vAt).a, texture2D(b, vAt).a);
  gl_FragColor = vec4(ramp(clamp(max(max(d.r, d.g), max(d.b, d.a)) * scale, 0.0, 1.0)), max(cover, 0.35));
}`,
    transparent: true,
  });
  const quad = new Mesh(new PlaneGeometry(2, 2), material);
  const stage = new Scene();
  stage.add(quad);
  const flat = new OrthographicCamera(-1, 1, 1, -1, 0, 1);
  return {
    draw(gl: WebGLRenderer, { scene, lens }: Shot, show: (side: 'a' | 'b') => void, scale: number): void {
      gl.getDrawingBufferSize(size);
      for (const [i, side] of (['a', 'b'] as const).entries()) {
        targets[i].setSize(size.x, size.y);
        show(side);
        gl.setRenderTarget(targets[i]);
        gl.clear();
        gl.render(scene, lens);
      }
      gl.setRenderTarget(null);
      material.uniforms.scale.value = scale;
      gl.render(stage, flat);
    },
    dispose(): void {
      for (const target of targets) target.dispose();
      quad.geometry.dispose();
      material.dispose();
    },
  };
}
