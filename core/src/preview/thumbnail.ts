import type { AssetState } from '../asset/asset.ts';
import { convertPixels } from '../colour/convert.ts';
import { isColourSpace } from '../colour/spaces.ts';
import { decodeImage } from '../images/decode.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { toMetalRough } from '../materials/metalRough.ts';
import type { SceneDocument } from '../scene/document.ts';
import { type MapUse, showsColours } from '../scene/material.ts';
import {
  geometricMatrix,
  type Matrix4,
  multiply,
  normalCofactors,
  toYUpMetres,
  transformPoint,
  worldMatrices,
} from '../scene/matrix.ts';
import { measureBoundsIn } from '../scene/measure.ts';
import { isShown } from '../scene/unsaidParts.ts';
import { cross } from '../scene/vectors.ts';
import { buildTriangleSets, type TriangleSet } from '../scene/vertices.ts';
import { byteOfLight } from './byteOfLight.ts';
import { type Picture, type Surface, shadeInto, surfaceOf, textureOf, unitInto, type Vec } from './shade.ts';

const OVERSAMPLE = 2;
const TEXTURE_SIZE = 256;
/** Past this many triangles only every n-th is drawn, so that a thumbnail never takes long. */
const MAX_TRIANGLES = 400_000;
/** Past so many shaded points (layers of clear surfaces one behind the other) the rest is left out. */
const MAX_SHADED = 12_000_000;
const SAME_DEPTH = 1e-6;

/**
 * Draws a small picture of an asset without a graphics card: three-quarter view, soft sky light and one lamp,
 * base colour and emission maps, no other maps. Returns RGBA over transparency, or null without geometry.
 */
export async function drawThumbnail(
  document: SceneDocument,
  state: AssetState,
  read: (path: string) => Promise<Uint8Array>,
  { width, height }: Record<'width' | 'height', number>,
): Promise<PixelBuffer | null> {
  const into = toYUpMetres(document.axes, document.metresPerUnit);
  const bounds = measureBoundsIn(document, into);
  if (!bounds) return null;
  const raster = new Raster(width * OVERSAMPLE, height * OVERSAMPLE, bounds);
  const surfaces = await loadSurfaces(state, read);
  const fallback = surfaceOf(PLAIN, { baseColor: null, emission: null, painted: true });
  const worlds = worldMatrices(document.nodes);
  const total = document.meshes.reduce(
    (sum, mesh) => sum + mesh.faceCorners.length - 2 * mesh.faceCounts.length,
    0,
  );
  const step = Math.max(1, Math.ceil(total / MAX_TRIANGLES));
  // A picture of nothing helps nobody.
  const allHidden = document.nodes.every(({ mesh }, i) => mesh < 0 || !isShown(document.nodes, i));
  for (const clear of [false, true]) {
    document.nodes.forEach((node, i) => {
      if (node.mesh < 0 || (!allHidden && !isShown(document.nodes, i))) return;
      const world = multiply(into, multiply(worlds[i], geometricMatrix(node.transform)));
      for (const set of buildTriangleSets(document.meshes[node.mesh])) {
        const key = document.materials[node.materials[set.slot] ?? -1]?.key;
        const surface = (key !== undefined && surfaces.get(key)) || fallback;
        if (surface.clear === clear) raster.draw(set, world, surface, step);
      }
    });
  }
  return raster.finish(OVERSAMPLE);
}

const PLAIN = toMetalRough({
  key: '',
  name: '',
  workflow: 'metalRough',
  channels: {},
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
  doubleSided: true,
  exponent: null,
  extras: {},
});

async function loadSurfaces(
  state: AssetState,
  read: (path: string) => Promise<Uint8Array>,
): Promise<Map<string, Surface>> {
  const cache = new Map<string, PixelBuffer | null>();
  const loadFile = async (path: string, use: MapUse) => {
    const key = JSON.stringify([path, use.space, use.exponent]);
    let buffer = cache.get(key);
    if (buffer === undefined) {
      buffer = await read(path)
        .then((bytes) => decodeImage(bytes, path, { maxSize: TEXTURE_SIZE }))
        .then((decoded) => toLight(decoded, use))
        .catch(() => null);
      cache.set(key, buffer);
    }
    return buffer;
  };
  const load = async (use: MapUse | null): Promise<Picture | null> => {
    const entry = use && state.images.find((image) => image.key === use.image);
    if (!use || !entry?.resolved) return null;
    const picture: Picture = new Map();
    for (const { number, path } of entry.tiles ?? [{ number: 0, path: entry.resolved }]) {
      const buffer = await loadFile(path, use);
      if (buffer) picture.set(number, textureOf(buffer));
    }
    return picture.size > 0 ? picture : null;
  };
  const surfaces = new Map<string, Surface>();
  for (const material of state.materials) {
    const shading = toMetalRough(material);
    surfaces.set(
      material.key,
      surfaceOf(shading, {
        baseColor: await load(shading.baseColor.map),
        emission: await load(shading.emission.map),
        painted: showsColours(material),
      }),
    );
  }
  return surfaces;
}

/** Stored numbers as light; images that are tagged as data keep theirs. */
function toLight(buffer: PixelBuffer, { space, exponent }: MapUse): PixelBuffer {
  if (!isColourSpace(space)) return buffer;
  return convertPixels(buffer, space, 'lin_rec709_scene', { exponent, depth: 'float' }).buffer;
}

const UNPAINTED = Float64Array.of(1, 1, 1);

/** Vertices as the camera sees them. */
interface Projected {
  /** x and y in pixels, and the depth. */
  screen: Float32Array;
  places: Float32Array;
  normals: Float32Array;
  uvs: Float32Array | null;
  /** Colours of points where they are seen, four numbers each. */
  colours: Float32Array | null;
}

/** A depth-buffered picture with a camera that frames the given bounds. */
class Raster {
  private readonly colour: Float32Array;
  private readonly alpha: Float32Array;
  private readonly depth: Float32Array;
  private readonly eye: Vec;
  private readonly forward: Vec;
  private readonly side: Vec;
  private readonly up: Vec;
  private readonly focal: number;
  private readonly shade = new Float64Array(3);
  private shaded = 0;

  constructor(
    private readonly width: number,
    private readonly height: number,
    { min, max }: { min: Vec; max: Vec },
  ) {
    this.colour = new Float32Array(width * height * 3);
    this.alpha = new Float32Array(width * height);
    this.depth = new Float32Array(width * height).fill(Infinity);
    const centre = min.map((value, i) => (value + max[i]) / 2) as Vec;
    const radius = Math.max(1e-6, Math.hypot(...max.map((value, i) => value - min[i])) / 2);
    const direction = unit([0.62, 0.34, 0.8]);
    const distance = radius * 3.6;
    this.eye = centre.map((value, i) => value + direction[i] * distance) as Vec;
    this.forward = direction.map((value) => -value) as Vec;
    this.side = unit(cross(this.forward, [0, 1, 0]));
    this.up = cross(this.side, this.forward);
    this.focal =
      (Math.min(width, height) / 2) * (Math.sqrt(distance * distance - radius * radius) / radius) * 1.06;
  }

  draw(
    set: Pick<TriangleSet, 'positions' | 'normals' | 'uvs' | 'colours' | 'indices'>,
    world: Matrix4,
    surface: Surface,
    step: number,
  ): void {
    const count = set.positions.length / 3;
    const screen = new Float32Array(count * 3);
    const places = new Float32Array(count * 3);
    const normals = new Float32Array(count * 3);
    const cofactors = normalCofactors(world);
    for (let v = 0; v < count; v += 1) {
      const p = transformPoint(
        world,
        set.positions[v * 3],
        set.positions[v * 3 + 1],
        set.positions[v * 3 + 2],
      );
      for (let k = 0; k < 3; k += 1) places[v * 3 + k] = p[k];
      const x = p[0] - this.eye[0];
      const y = p[1] - this.eye[1];
      const z = p[2] - this.eye[2];
      const deep = x * this.forward[0] + y * this.forward[1] + z * this.forward[2];
      screen[v * 3] =
        this.width / 2 + ((x * this.side[0] + y * this.side[1] + z * this.side[2]) / deep) * this.focal;
      screen[v * 3 + 1] =
        this.height / 2 - ((x * this.up[0] + y * this.up[1] + z * this.up[2]) / deep) * this.focal;
      screen[v * 3 + 2] = deep;
      for (let k = 0; k < 3; k += 1)
        normals[v * 3 + k] =
          cofactors[k] * set.normals[v * 3] +
          cofactors[3 + k] * set.normals[v * 3 + 1] +
          cofactors[6 + k] * set.normals[v * 3 + 2];
    }
    const colours = surface.painted ? set.colours : null;
    const projected = { screen, places, normals, uvs: set.uvs[0] ?? null, colours };
    for (let t = 0; t < set.indices.length; t += 3 * step) {
      this.triangle([set.indices[t], set.indices[t + 1], set.indices[t + 2]], projected, surface);
    }
  }

  private triangle([a, b, c]: Vec, projected: Projected, surface: Surface): void {
    const { screen, places, normals, uvs, colours } = projected;
    const [ax, ay, az] = [screen[a * 3], screen[a * 3 + 1], screen[a * 3 + 2]];
    const [bx, by, bz] = [screen[b * 3], screen[b * 3 + 1], screen[b * 3 + 2]];
    const [cx, cy, cz] = [screen[c * 3], screen[c * 3 + 1], screen[c * 3 + 2]];
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (!(Math.abs(area) > 1e-9) || az <= 0 || bz <= 0 || cz <= 0 || this.shaded > MAX_SHADED) return;
    const left = Math.max(0, Math.floor(Math.min(ax, bx, cx)));
    const right = Math.min(this.width - 1, Math.ceil(Math.max(ax, bx, cx)));
    const top = Math.max(0, Math.floor(Math.min(ay, by, cy)));
    const bottom = Math.min(this.height - 1, Math.ceil(Math.max(ay, by, cy)));
    const { eye } = this;
    const [n, view] = [new Float64Array(3), new Float64Array(3)];
    const paint = colours ? new Float64Array(3) : UNPAINTED;
    let [u, v] = [0, 0];
    // Weights of the corners change by the same amount from pixel to pixel.
    const [stepA, stepB] = [(by - cy) / area, (cy - ay) / area];
    for (let y = top; y <= bottom; y += 1) {
      const py = y + 0.5;
      const rowA = ((bx - 0.5) * (cy - py) - (cx - 0.5) * (by - py)) / area;
      const rowB = ((cx - 0.5) * (ay - py) - (ax - 0.5) * (cy - py)) / area;
      for (let x = left; x <= right; x += 1) {
        let wa = rowA + stepA * x;
        let wb = rowB + stepB * x;
        let wc = 1 - wa - wb;
        if (wa < 0 || wb < 0 || wc < 0) continue;
        wa /= az;
        wb /= bz;
        wc /= cz;
        const deep = 1 / (wa + wb + wc);
        const index = y * this.width + x;
        // Surfaces that coincide are drawn once.
        if (deep >= this.depth[index] * (1 - SAME_DEPTH)) continue;
        this.shaded += 1;
        wa *= deep;
        wb *= deep;
        wc *= deep;
        for (let k = 0; k < 3; k += 1) {
          n[k] = normals[a * 3 + k] * wa + normals[b * 3 + k] * wb + normals[c * 3 + k] * wc;
          view[k] = eye[k] - (places[a * 3 + k] * wa + places[b * 3 + k] * wb + places[c * 3 + k] * wc);
        }
        if (uvs) {
          u = uvs[a * 2] * wa + uvs[b * 2] * wb + uvs[c * 2] * wc;
          v = uvs[a * 2 + 1] * wa + uvs[b * 2 + 1] * wb + uvs[c * 2 + 1] * wc;
        }
        for (let k = 0; colours && k < 3; k += 1)
          paint[k] = colours[a * 4 + k] * wa + colours[b * 4 + k] * wb + colours[c * 4 + k] * wc;
        unitInto(n);
        unitInto(view);
        shadeInto(this.shade, surface, { n, view, u, v, paint });
        this.blend(index, deep, surface.opacity);
      }
    }
  }

  private blend(index: number, deep: number, opacity: number): void {
    for (let k = 0; k < 3; k += 1)
      this.colour[index * 3 + k] = this.shade[k] * opacity + this.colour[index * 3 + k] * (1 - opacity);
    this.alpha[index] = opacity + this.alpha[index] * (1 - opacity);
    if (opacity >= 1) this.depth[index] = deep;
  }

  /** Averages down and encodes to 8-bit sRGB with straight alpha. */
  finish(factor: number): PixelBuffer {
    const width = this.width / factor;
    const height = this.height / factor;
    const data = new Uint8Array(width * height * 4);
    for (let y = 0; y < height; y += 1) {
      for (let x = 0; x < width; x += 1) {
        let r = 0;
        let g = 0;
        let b = 0;
        let alpha = 0;
        for (let i = 0; i < factor * factor; i += 1) {
          const index = (y * factor + Math.floor(i / factor)) * this.width + x * factor + (i % factor);
          r += this.colour[index * 3];
          g += this.colour[index * 3 + 1];
          b += this.colour[index * 3 + 2];
          alpha += this.alpha[index];
        }
        if (alpha <= 0) continue;
        const out = (y * width + x) * 4;
        data[out] = byteOfLight(r / alpha);
        data[out + 1] = byteOfLight(g / alpha);
        data[out + 2] = byteOfLight(b / alpha);
        data[out + 3] = Math.round((alpha / (factor * factor)) * 255);
      }
    }
    return { width, height, components: 4, data };
  }
}

function unit(v: Vec): Vec {
  const length = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
}
