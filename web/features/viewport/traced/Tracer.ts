import {
  FloatType,
  HalfFloatType,
  NearestFilter,
  type PerspectiveCamera,
  type Scene,
  type Texture,
  WebGLRenderer,
  WebGLRenderTarget,
} from 'three';
import { WebGLPathTracer } from 'three-gpu-pathtracer';
import type { Stage } from '../stage.ts';
import type { Work } from '../stillWork.ts';
import { bareGround } from './bareGround.ts';
import { copyInto, Development } from './development.ts';
import { ReadBaker } from './ReadBaker.ts';
import { type TracedScene, tracedScene, type Untraced } from './tracedScene.ts';

/** Side of the pieces that are drawn at once, so that the page is never kept waiting for long. */
const TILE = 512;
/** How far light goes on, and through how many surfaces that let it pass. */
const BOUNCES = 8;
const PASSES = 12;

/** All pictures that rays read lie in one array of half floats. */
const MOST_PICTURE_BYTES = 512 * 2 ** 20;

/** What traced light is asked for. */
export interface TraceSize {
  width: number;
  height: number;
  /** Paths a pixel. */
  samples: number;
}

/** Why rays cannot be followed here; the picture is drawn as the view is instead. */
export class CannotTrace extends Error {}

/**
 * Follows light through what the view shows, beside the view, which goes on: it has a context of its own.
 */
export class Tracer {
  private readonly renderer: WebGLRenderer;
  private readonly baker: ReadBaker;
  private readonly scene: TracedScene;
  private readonly tracer: WebGLPathTracer;
  private readonly kept: WebGLRenderTarget[] = [];
  private fault: string | null = null;

  /** Throws {@link CannotTrace} where the graphics card does not have what it takes. */
  constructor(stage: Stage, sky: Texture | null) {
    this.renderer = createRenderer();
    const missing = lackOf(this.renderer);
    if (missing) {
      this.renderer.dispose();
      throw new CannotTrace(missing);
    }
    this.renderer.debug.onShaderError = (context, program) => {
      this.fault = context.getProgramInfoLog(program) || 'its shader does not compile';
    };
    this.renderer.toneMapping = stage.gl.toneMapping;
    this.renderer.toneMappingExposure = stage.gl.toneMappingExposure;
    this.baker = new ReadBaker(this.renderer);
    this.scene = tracedScene(stage.scene, sky, this.baker);
    if (stage.scene.background === stage.scene.environment && sky) {
      this.scene.scene.background = sky;
      this.scene.scene.backgroundRotation.copy(stage.scene.backgroundRotation);
      this.scene.scene.backgroundIntensity = stage.scene.backgroundIntensity;
      this.scene.scene.backgroundBlurriness = stage.scene.backgroundBlurriness;
    }
    this.tracer = createTracer(this.renderer, this.baker.count);
  }

  get untraced(): readonly Untraced[] {
    return [...this.scene.untraced];
  }

  /** Takes away what lies behind the parts. */
  withoutBackground(): void {
    this.scene.scene.background = null;
  }

  /** The picture in 8 bits as the view's transform makes it, bottom row first, colour times alpha. */
  async picture(camera: PerspectiveCamera, size: TraceSize, work: Work): Promise<Uint8Array> {
    const developing = await this.develop(camera, size, work);
    const { width, height } = size;
    this.renderer.setRenderTarget(null);
    developing.render(this.renderer);
    const out = new Uint8Array(width * height * 4);
    const context = this.renderer.getContext();
    context.readPixels(0, 0, width, height, context.RGBA, context.UNSIGNED_BYTE, out);
    return out;
  }

  /** Light as floats, bottom row first, colour times alpha. */
  async light(camera: PerspectiveCamera, size: TraceSize, work: Work): Promise<Float32Array> {
    const developing = await this.develop(camera, size, work);
    const { width, height } = size;
    const target = floats(width, height);
    this.renderer.setRenderTarget(target);
    developing.render(this.renderer);
    this.renderer.setRenderTarget(null);
    const out = new Float32Array(width * height * 4);
    this.renderer.readRenderTargetPixels(target, 0, 0, width, height, out);
    target.dispose();
    return out;
  }

  /** What turns the light of a picture, and the shadows on its ground, into what is asked for. */
  private async develop(camera: PerspectiveCamera, size: TraceSize, work: Work): Promise<Development> {
    const { scene, ground } = this.scene;
    const { width, height, samples } = size;
    if (!ground || scene.background) {
      await this.trace(scene, camera, size, work);
      return new Development(this.tracer.target.texture, null);
    }
    const part = (from: number, share: number): Work => ({
      ...work,
      progress: (done) => work.progress(from + done * share),
    });
    await this.trace(scene, camera, size, part(0, 0.65));
    for (const target of this.kept.splice(0)) target.dispose();
    const kept = floats(width, height);
    this.kept.push(kept);
    copyInto(this.renderer, this.tracer.target.texture, kept);
    const bare = bareGround(scene);
    scene.add(ground);
    try {
      await this.trace(scene, camera, { ...size, samples: Math.ceil(samples / 2) }, part(0.65, 0.35));
    } finally {
      scene.remove(ground);
    }
    return new Development(kept.texture, { texture: this.tracer.target.texture, bare });
  }

  private async trace(scene: Scene, camera: PerspectiveCamera, size: TraceSize, work: Work): Promise<void> {
    const { tracer, renderer } = this;
    const { width, height, samples } = size;
    renderer.setPixelRatio(1);
    renderer.setSize(width, height, false);
    tracer.tiles.set(Math.ceil(width / TILE), Math.ceil(height / TILE));
    tracer.setScene(scene, camera);
    // It would find out after the first path, and have the graphics card build its program once more.
    innerOf(tracer).alpha = scene.background === null;
    this.throwFault();
    do {
      work.signal.throwIfAborted();
      tracer.renderSample();
      this.throwFault();
      await drawn(renderer);
      work.progress(tracer.samples / samples);
    } while (tracer.samples < samples);
  }

  private throwFault(): void {
    if (this.renderer.getContext().isContextLost())
      throw new CannotTrace('the graphics card gave up; a smaller picture may do');
    if (this.fault) throw new CannotTrace(this.fault);
  }

  dispose(): void {
    for (const target of this.kept) target.dispose();
    this.scene.dispose();
    this.baker.dispose();
    (this.tracer as { dispose?(): void }).dispose?.();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }
}

function createRenderer(): WebGLRenderer {
  try {
    return new WebGLRenderer({ antialias: false, alpha: true, powerPreference: 'high-performance' });
  } catch (error) {
    throw new CannotTrace(error instanceof Error ? error.message : String(error));
  }
}

function lackOf(renderer: WebGLRenderer): string | null {
  if (!renderer.extensions.has('EXT_color_buffer_float')) return 'it does not draw into floats';
  if (!renderer.extensions.has('OES_texture_float_linear')) return 'it does not filter floats';
  return null;
}

function createTracer(renderer: WebGLRenderer, pictures: number): WebGLPathTracer {
  const tracer = new WebGLPathTracer(renderer);
  tracer.bounces = BOUNCES;
  tracer.transmissiveBounces = PASSES;
  tracer.filterGlossyFactor = 0.5;
  const side = Math.sqrt(MOST_PICTURE_BYTES / 8 / Math.max(1, pictures));
  tracer.textureSize.setScalar(Math.min(2048, 2 ** Math.floor(Math.log2(side))));
  Object.assign(tracer, {
    renderDelay: 0,
    minSamples: 0,
    fadeDuration: 0,
    renderToCanvas: false,
    rasterizeScene: false,
    dynamicLowRes: false,
  });
  // Colours are kept as light: 8 bits of it would show steps in what is dark.
  innerOf(tracer).material.textures.type = HalfFloatType;
  return tracer;
}

/** What its own interface does not offer. */
function innerOf(tracer: WebGLPathTracer): { material: { textures: Texture }; alpha: boolean } {
  return (tracer as unknown as { _pathTracer: ReturnType<typeof innerOf> })._pathTracer;
}

function floats(width: number, height: number): WebGLRenderTarget {
  return new WebGLRenderTarget(width, height, {
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
}

/** Waits for the graphics card without holding the page. */
async function drawn(renderer: WebGLRenderer): Promise<void> {
  const context = renderer.getContext() as WebGL2RenderingContext;
  const fence = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0);
  context.flush();
  do await new Promise((resolve) => setTimeout(resolve));
  while (fence && context.clientWaitSync(fence, 0, 0) === context.TIMEOUT_EXPIRED);
  context.deleteSync(fence);
}
