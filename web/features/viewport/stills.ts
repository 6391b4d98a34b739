import { Color, DataUtils, HalfFloatType, type PerspectiveCamera, Vector3, WebGLRenderTarget } from 'three';
import type { Backdrop } from '@/ui/choices';
import { PLAIN_BACKDROPS } from './backdrops.ts';
import { type Stage, useStage } from './stage.ts';
import type { Work } from './stillWork.ts';
import type { Untraced } from './traced/tracedScene.ts';

export interface StillOptions {
  width: number;
  height: number;
  format: 'png' | 'exr';
  /** Nothing behind the object; else what the view shows there. */
  transparent: boolean;
  backdrop: Backdrop;
  /** Paths of light that are followed for each pixel; 0 draws as the view does. */
  samples: number;
}

interface Drawer {
  draw(camera: PerspectiveCamera, work: Work): Promise<Pixels>;
  dispose(): void;
}

export const MOST_WIDTH = 8192;
/** Side of the pieces that a large picture is drawn in. */
const TILE = 1024;
/** PNG rows and EXR pixels of a picture, bottom row first as the graphics card gives them. */
type Pixels = Uint8Array | Uint16Array;

/**
 * Draws the view at any size, piece by piece, and encodes it in a worker. Throws `AbortError` when the signal
 * says so.
 */
export async function takeStill(stage: Stage, options: StillOptions, work: Work): Promise<Blob> {
  const camera = cameraFor(stage, options);
  const drawer = await drawerFor(stage, options, work);
  try {
    const pixels = await drawer.draw(camera, {
      ...work,
      progress: (share) => work.progress(share * 0.8),
    });
    return await encode(pixels, options);
  } finally {
    drawer.dispose();
  }
}

/** Frames from all around, the camera turning about what it looks at, as PNG in a zip. */
export async function takeTurntable(
  stage: Stage,
  options: StillOptions,
  frames: number,
  work: Work,
): Promise<Blob> {
  const camera = cameraFor(stage, options);
  const target = stage.target();
  const arm = camera.position.clone().sub(target);
  const encoded: Blob[] = [];
  const names: string[] = [];
  const drawer = await drawerFor(stage, options, work);
  try {
    for (let i = 0; i < frames; i += 1) {
      const turned = arm.clone().applyAxisAngle(new Vector3(0, 1, 0), (i / frames) * Math.PI * 2);
      camera.position.copy(target).add(turned);
      camera.lookAt(target);
      camera.updateMatrixWorld();
      const progress = (share: number) => work.progress((i + share) / frames);
      const pixels = await drawer.draw(camera, { ...work, progress });
      names.push(`frame_${String(i + 1).padStart(4, '0')}.${options.format}`);
      encoded.push(await encode(pixels, options));
    }
  } finally {
    drawer.dispose();
  }
  return pack(names, encoded);
}

/** The view's camera with the picture's shape; what the view shows across stays in the picture. */
function cameraFor({ camera, target }: Stage, { width, height }: StillOptions): PerspectiveCamera {
  const own = camera.clone();
  const aspect = width / height;
  if (aspect < camera.aspect) {
    const across = Math.tan((camera.fov * Math.PI) / 360) * camera.aspect;
    own.fov = (2 * Math.atan(across / aspect) * 180) / Math.PI;
    // A picture taller than the view would only gain ceiling and floor: half of the difference is enough.
    own.fov = (own.fov + camera.fov) / 2;
  }
  own.aspect = aspect;
  own.lookAt(target());
  own.updateProjectionMatrix();
  own.updateMatrixWorld();
  return own;
}

/** Draws by following light where that is asked for and can be, else as the view does. */
async function drawerFor(stage: Stage, options: StillOptions, work: Work): Promise<Drawer> {
  const plain: Drawer = {
    draw: (camera, own) => drawPieces(stage, camera, options, own),
    dispose: () => stage.restore(),
  };
  if (options.samples === 0) return plain;
  const { CannotTrace, Tracer } = await import('./traced/Tracer.ts');
  const asTheViewDoes = (error: unknown) => {
    if (!(error instanceof CannotTrace)) throw error;
    work.note(`The picture cannot be path-traced here: ${error.message}. It is drawn as the view is.`);
  };
  try {
    const tracer = new Tracer(stage, useStage.getState().sky);
    if (options.transparent) tracer.withoutBackground();
    for (const kind of tracer.untraced) work.note(UNTRACED[kind]);
    return {
      async draw(camera, own) {
        try {
          if (options.format === 'png') return await tracer.picture(camera, options, own);
          return Uint16Array.from(await tracer.light(camera, options, own), DataUtils.toHalfFloat);
        } catch (error) {
          asTheViewDoes(error);
          return plain.draw(camera, own);
        }
      },
      dispose() {
        tracer.dispose();
        plain.dispose();
      },
    };
  } catch (error) {
    asTheViewDoes(error);
    return plain;
  }
}

const UNTRACED: Record<Untraced, string> = {
  heights: 'Path-traced, heights do not move the surface.',
  bumps: 'Path-traced, bump maps do not show.',
  secondUvs: 'Path-traced, a map on another UV set than the first map of its material does not show.',
  colours: 'Path-traced, colours of points do not show.',
  specGloss:
    'Path-traced, spec/gloss keeps the diffuse light that its specular colour takes: a little too bright.',
};

async function drawPieces(
  { gl, scene }: Stage,
  camera: PerspectiveCamera,
  options: StillOptions,
  { progress, signal }: Work,
): Promise<Pixels> {
  const { width, height, format } = options;
  const out: Pixels =
    format === 'exr' ? new Uint16Array(width * height * 4) : new Uint8Array(width * height * 4);
  const behind = scene.background;
  const pieces: { x: number; y: number; w: number; h: number }[] = [];
  for (let y = 0; y < height; y += TILE)
    for (let x = 0; x < width; x += TILE)
      pieces.push({ x, y, w: Math.min(TILE, width - x), h: Math.min(TILE, height - y) });
  for (const [i, { x, y, w, h }] of pieces.entries()) {
    signal.throwIfAborted();
    if (options.transparent) scene.background = null;
    camera.setViewOffset(width, height, x, height - y - h, w, h);
    const piece =
      format === 'exr' ? drawLight({ gl, scene }, camera, w, h) : drawPicture({ gl, scene }, camera, w, h);
    scene.background = behind;
    for (let row = 0; row < h; row += 1)
      out.set(piece.subarray(row * w * 4, (row + 1) * w * 4), ((y + row) * width + x) * 4);
    progress((i + 1) / pieces.length);
    await new Promise((resolve) => setTimeout(resolve));
  }
  camera.clearViewOffset();
  return out;
}

/** Light as half floats, without the view's transform. */
function drawLight(
  { gl, scene }: Pick<Stage, 'gl' | 'scene'>,
  camera: PerspectiveCamera,
  width: number,
  height: number,
): Uint16Array {
  const target = new WebGLRenderTarget(width, height, { type: HalfFloatType, samples: 4 });
  gl.setRenderTarget(target);
  gl.render(scene, camera);
  const out = new Uint16Array(width * height * 4);
  gl.readRenderTargetPixels(target, 0, 0, width, height, out);
  gl.setRenderTarget(null);
  target.dispose();
  return out;
}

/** The picture as the view shows it. */
function drawPicture(
  { gl, scene }: Pick<Stage, 'gl' | 'scene'>,
  camera: PerspectiveCamera,
  width: number,
  height: number,
): Uint8Array {
  gl.setPixelRatio(1);
  gl.setSize(width, height, false);
  gl.render(scene, camera);
  const context = gl.getContext();
  const out = new Uint8Array(width * height * 4);
  context.readPixels(0, 0, width, height, context.RGBA, context.UNSIGNED_BYTE, out);
  return out;
}

/**
 * Stops of the backdrop from top to bottom, sRGB in 0..1, as the page has them; null where the picture has it
 * already.
 */
function backdropStops({ transparent, backdrop, samples }: StillOptions): EncodeRequest['paper'] {
  if (transparent) return null;
  if (backdrop === 'paper') return paperStops();
  if (samples === 0 || backdrop === 'surroundings') return null;
  const { r, g, b } = new Color(PLAIN_BACKDROPS[backdrop]).convertLinearToSRGB();
  return [
    [0, [r, g, b]],
    [1, [r, g, b]],
  ];
}

function paperStops(): [number, [number, number, number]][] {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => {
    const { r, g, b } = new Color(style.getPropertyValue(name).trim() || '#d9d2bf').convertLinearToSRGB();
    return [r, g, b] as [number, number, number];
  };
  return [
    [0, colour('--sky-top')],
    [0.55, colour('--sky-mid')],
    [1, colour('--sky-low')],
  ];
}

export interface EncodeRequest {
  kind: 'png' | 'exr';
  width: number;
  height: number;
  /** Bottom row first, colour times alpha. */
  pixels: Pixels;
  /** Colours behind what is clear, by height from the top; null keeps it clear. */
  paper: [number, [number, number, number]][] | null;
}

export interface PackRequest {
  kind: 'zip';
  names: string[];
  files: Uint8Array[];
}

async function encode(pixels: Pixels, options: StillOptions): Promise<Blob> {
  const { width, height, format } = options;
  const paper = backdropStops(options);
  const request: EncodeRequest = { kind: format, width, height, pixels, paper };
  return new Blob([(await inWorker(request, [pixels.buffer])) as BlobPart], {
    type: format === 'png' ? 'image/png' : 'image/x-exr',
  });
}

async function pack(names: string[], blobs: Blob[]): Promise<Blob> {
  const files = await Promise.all(blobs.map(async (blob) => new Uint8Array(await blob.arrayBuffer())));
  const request: PackRequest = { kind: 'zip', names, files };
  return new Blob(
    [
      (await inWorker(
        request,
        files.map((file) => file.buffer),
      )) as BlobPart,
    ],
    { type: 'application/zip' },
  );
}

function inWorker(request: EncodeRequest | PackRequest, transfer: ArrayBufferLike[]): Promise<Uint8Array> {
  const worker = new Worker(new URL('./stills.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<Uint8Array>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<Uint8Array | { error: string }>) =>
      data instanceof Uint8Array ? resolve(data) : reject(new Error(data.error));
    worker.onerror = ({ message }) => reject(new Error(message || 'the picture cannot be encoded'));
    worker.postMessage(request, transfer as Transferable[]);
  }).finally(() => worker.terminate());
}
