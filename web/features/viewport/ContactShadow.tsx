'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, useEffect, useMemo, useRef } from 'react';
import {
  type Box3,
  type Camera,
  Color,
  DoubleSide,
  type Group,
  LinearFilter,
  Mesh,
  MeshDepthMaterial,
  OrthographicCamera,
  PlaneGeometry,
  type Scene,
  ShaderMaterial,
  Vector3,
  type WebGLRenderer,
  WebGLRenderTarget,
} from 'three';
import { HorizontalBlurShader } from 'three/addons/shaders/HorizontalBlurShader.js';
import { VerticalBlurShader } from 'three/addons/shaders/VerticalBlurShader.js';

const PIXELS = 256;
/**
 * Of the extent over the ground: room for the blur on every side, and how high above the ground things still
 * darken it.
 */
const ROOM = 1.6;
const REACH = 0.22;
/** How dark it is where something touches the ground. */
const DARKNESS = 1.4;
const OPACITY = 0.62;
/** Widths of the blurs, in pixels; a wide one leaves steps that a narrow one takes away. */
const BLURS = [2.6, 1.1];

/** What gives the darkness of a place from how far above it the nearest surface lies. */
function nearness(): MeshDepthMaterial {
  const material = new MeshDepthMaterial({ depthTest: false, depthWrite: false, side: DoubleSide });
  const line = 'gl_FragColor = vec4( vec3( 1.0 - fragCoordZ ), opacity );';
  material.onBeforeCompile = (shader) => {
    if (!shader.fragmentShader.includes(line)) throw new Error('the shader of depths is not what it was');
    shader.fragmentShader = shader.fragmentShader.replace(
      line,
      `gl_FragColor = vec4( vec3( 0.0 ), ( 1.0 - fragCoordZ ) * ${DARKNESS.toFixed(2)} );`,
    );
  };
  return material;
}

/** Draws what lies near the ground, as seen from below, and blurs it. */
class ContactPicture {
  readonly result = new WebGLRenderTarget(PIXELS, PIXELS, { minFilter: LinearFilter });
  private readonly between = new WebGLRenderTarget(PIXELS, PIXELS);
  private readonly camera = new OrthographicCamera();
  private readonly depths = nearness();
  private readonly sheet = new Mesh(new PlaneGeometry(2, 2));
  private readonly flat = new OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly across = new ShaderMaterial({
    ...HorizontalBlurShader,
    uniforms: { tDiffuse: { value: null }, h: { value: 0 } },
    depthTest: false,
  });
  private readonly along = new ShaderMaterial({
    ...VerticalBlurShader,
    uniforms: { tDiffuse: { value: null }, v: { value: 0 } },
    depthTest: false,
  });

  draw(
    gl: WebGLRenderer,
    scene: Scene,
    { place, side, hidden }: { place: Vector3; side: number; hidden: Group | null },
  ): void {
    const { camera } = this;
    camera.left = camera.bottom = -side / 2;
    camera.right = camera.top = side / 2;
    camera.near = 0;
    camera.far = (side / ROOM) * REACH;
    camera.position.copy(place);
    camera.rotation.set(Math.PI / 2, 0, 0);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    const before = {
      background: scene.background,
      alpha: gl.getClearAlpha(),
      colour: gl.getClearColor(new Color()),
      target: gl.getRenderTarget(),
    };
    const shadows = gl.shadowMap.autoUpdate;
    if (hidden) hidden.visible = false;
    scene.background = null;
    scene.overrideMaterial = this.depths;
    gl.shadowMap.autoUpdate = false;
    gl.setClearColor(0, 0);
    this.render(gl, scene, camera, this.result);
    scene.overrideMaterial = null;
    for (const width of BLURS) this.blur(gl, width);
    gl.setRenderTarget(before.target);
    gl.setClearColor(before.colour, before.alpha);
    gl.shadowMap.autoUpdate = shadows;
    scene.background = before.background;
    if (hidden) hidden.visible = true;
  }

  private blur(gl: WebGLRenderer, width: number): void {
    for (const [material, amount, from, to] of [
      [this.across, 'h', this.result, this.between],
      [this.along, 'v', this.between, this.result],
    ] as const) {
      material.uniforms.tDiffuse.value = from.texture;
      material.uniforms[amount].value = width / PIXELS;
      this.sheet.material = material;
      this.render(gl, this.sheet, this.flat, to);
    }
  }

  private render(gl: WebGLRenderer, what: Scene | Mesh, camera: Camera, into: WebGLRenderTarget): void {
    gl.setRenderTarget(into);
    gl.clear();
    gl.render(what, camera);
  }

  dispose(): void {
    for (const one of [this.result, this.between, this.depths, this.across, this.along, this.sheet.geometry])
      one.dispose();
  }
}

/**
 * The darkening where an asset stands on the ground. Drawn anew when the page has drawn the asset anew, not
 * when the camera turns. The ground itself, which lies over nothing, is left out of it.
 */
export function ContactShadow({ bounds, children }: { bounds: Box3; children: ReactNode }) {
  const { gl, scene, invalidate } = useThree();
  const group = useRef<Group>(null);
  const stale = useRef(true);
  const picture = useMemo(() => new ContactPicture(), []);
  useEffect(() => () => picture.dispose(), [picture]);
  const extent = bounds.getSize(new Vector3());
  const side = Math.max(extent.x, extent.z) * ROOM;
  const middle = bounds.getCenter(new Vector3());
  const place = middle.setY(bounds.min.y - side * 0.001);
  useEffect(() => {
    stale.current = true;
    invalidate();
  });
  useFrame(() => {
    if (!stale.current) return;
    stale.current = false;
    picture.draw(gl, scene, { place, side, hidden: group.current });
  });
  return (
    <group ref={group}>
      {children}
      <mesh position={place} rotation-x={-Math.PI / 2} scale={[side, -side, 1]} renderOrder={-1}>
        <planeGeometry />
        <meshBasicMaterial
          map={picture.result.texture}
          transparent
          opacity={OPACITY}
          depthWrite={false}
          toneMapped={false}
          side={2}
        />
      </mesh>
    </group>
  );
}
