import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three';
import { Lot } from '../fuzz/lot.ts';
import { PIXEL } from './pixel.ts';
import { addFace, type Corner, type Known, paintOf, type Soup } from './soup.ts';

const [FLOAT, BYTES, SHORTS, INTS, SIGNED] = [5126, 5121, 5123, 5125, 5122];
const WIDTH: Record<number, number> = { [FLOAT]: 4, [BYTES]: 1, [SHORTS]: 2, [INTS]: 4, [SIGNED]: 2 };
const LETTERS: Record<number, string> = { 1: 'SCALAR', 2: 'VEC2', 3: 'VEC3', 4: 'VEC4' };
/** Of a primitive: triangles one by one, as a strip, as a fan. */
const MODES = [4, 4, 5, 6];

/** How a material's image of light is laid. */
interface Look {
  colour: number[];
  image: boolean;
  set: number;
  scale: [number, number];
  turn: number;
  move: [number, number];
}

interface Piece {
  look: number;
  places: Vector3[];
  normals: Vector3[] | null;
  uvs: [number, number][][];
  /** Corners of triangles. */
  triangles: number[][];
}

/**
 * A glTF written number by number: strips and fans, indices of every width or none, numbers as integers, woven or
 * sparse, matrices and steps, several scenes, copies by extension, images and buffers inside and beside. The same
 * seed gives the same files.
 */
export function strangeGltf(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends Lot {
  private readonly soup: Soup = new Map();
  private readonly looks: Look[] = [];
  private readonly meshes: Piece[][] = [];
  private readonly used = new Set<string>();
  private readonly json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [] as object[],
    nodes: [] as Record<string, unknown>[],
    meshes: [] as object[],
    materials: [] as object[],
    accessors: [] as object[],
    bufferViews: [] as object[],
    buffers: [] as object[],
    images: [] as object[],
    textures: [] as object[],
    extensionsUsed: undefined as string[] | undefined,
    extensionsRequired: undefined as string[] | undefined,
  };
  private bytes: number[] = [];

  known(): Known {
    const { json } = this;
    for (let i = 0; i < 1 + this.below(4); i += 1) this.addLook(i);
    for (let i = 0; i < 1 + this.below(3); i += 1) this.addMesh(i);
    const roots = Array.from({ length: 1 + this.below(3) }, () => this.addNode(new Matrix4(), 0, true));
    json.scenes.push({ nodes: roots });
    // Another scene, which nobody sees.
    if (this.chance(0.3)) {
      json.scenes.unshift({ nodes: [this.addNode(new Matrix4(), 3, false)] });
      json.scene = 1;
    }
    const files: Record<string, Uint8Array> = {};
    const bin = Uint8Array.from(this.bytes);
    const inside = (type: string, bytes: Uint8Array) =>
      `data:${type};base64,${Buffer.from(bytes).toString('base64')}`;
    const isInside = this.chance(0.4);
    json.buffers.push({
      byteLength: bin.length,
      uri: isInside ? inside('application/octet-stream', bin) : 'quay%20deck.bin',
    });
    if (!isInside) files['quay deck.bin'] = bin;
    const carried = this.chance(0.4);
    json.images.push(carried ? { uri: inside('image/png', PIXEL) } : { uri: 'tide%20mark.png' });
    if (!carried) files['tide mark.png'] = PIXEL;
    json.textures.push({ source: 0 });
    if (this.used.size > 0) json.extensionsUsed = [...this.used];
    const required = [...this.used].filter((name) => name !== 'KHR_texture_transform');
    if (required.length > 0) json.extensionsRequired = required;
    files['quay.gltf'] = new TextEncoder().encode(JSON.stringify(json, null, this.pick([0, 2])));
    return { files, model: 'quay.gltf', soup: this.soup };
  }

  private vector(least: number, most: number): [number, number, number] {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  private addLook(index: number): void {
    const laid = this.chance(0.4);
    const look: Look = {
      colour: [0.1 + 0.1 * index, this.between(0, 1), this.between(0, 1)],
      image: this.chance(0.7),
      set: this.below(2),
      scale: laid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      turn: laid && this.chance(0.5) ? this.between(-3, 3) : 0,
      move: laid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
    this.looks.push(look);
    if (laid && look.image) this.used.add('KHR_texture_transform');
    // The extension's own set stands before the one beside it.
    const over = laid && this.chance(0.5);
    const transform = {
      scale: look.scale,
      offset: look.move,
      rotation: look.turn,
      ...(over ? { texCoord: look.set } : {}),
    };
    this.json.materials.push({
      name: `Paint${index}`,
      pbrMetallicRoughness: { baseColorFactor: [...look.colour, 1] },
      ...(look.image
        ? {
            emissiveFactor: [1, 1, 1],
            emissiveTexture: {
              index: 0,
              texCoord: over ? 1 - look.set : look.set,
              ...(laid ? { extensions: { KHR_texture_transform: transform } } : {}),
            },
          }
        : {}),
    });
  }

  private addMesh(index: number): void {
    const pieces: Piece[] = [];
    const primitives: object[] = [];
    for (let k = 0; k < 1 + this.below(2); k += 1) {
      const mode = this.pick(MODES);
      const count = mode === 4 ? 3 * (1 + this.below(4)) : 3 + this.below(5);
      // Whole eighths, which small integers hold too.
      const eighth = () => this.below(9) / 8;
      const look = this.below(this.looks.length);
      const piece: Piece = {
        look,
        places: Array.from({ length: count }, () => new Vector3(eighth(), eighth(), eighth())),
        normals: this.chance(0.6)
          ? Array.from({ length: count }, () => new Vector3(...this.vector(0.1, 1)).normalize())
          : null,
        uvs: [0, 1].map(() => Array.from({ length: count }, (): [number, number] => [eighth(), eighth()])),
        triangles: [],
      };
      const indexed = this.chance(0.6);
      const order = Array.from({ length: count }, (_, i) => (indexed ? count - 1 - i : i));
      if (mode === 4) for (let i = 0; i < count; i += 3) piece.triangles.push(order.slice(i, i + 3));
      for (let i = 0; mode !== 4 && i + 2 < count; i += 1) {
        const [a, b, c] = [order[i], order[i + 1], order[i + 2]];
        if (mode === 5) piece.triangles.push(i % 2 === 0 ? [a, b, c] : [b, a, c]);
        else piece.triangles.push([order[0], b, c]);
      }
      pieces.push(piece);
      primitives.push(this.primitive(piece, { mode, order: indexed ? order : null }));
    }
    this.meshes.push(pieces);
    this.json.meshes.push({ name: `Mesh${index}`, primitives });
  }

  private primitive(piece: Piece, { mode, order }: { mode: number; order: number[] | null }): object {
    const attributes: Record<string, number> = {
      POSITION: this.accessor(piece.places.map((place) => place.toArray())),
    };
    if (piece.normals) attributes.NORMAL = this.accessor(piece.normals.map((normal) => normal.toArray()));
    piece.uvs.forEach((uvs, set) => {
      const whole = this.chance(0.4);
      attributes[`TEXCOORD_${set}`] = whole
        ? this.whole(uvs, this.pick([BYTES, SHORTS]))
        : this.accessor(uvs.map((uv) => [...uv]));
    });
    return {
      attributes,
      material: piece.look,
      ...(mode === 4 && this.chance(0.5) ? {} : { mode }),
      ...(order
        ? {
            indices: this.accessor(
              order.map((at) => [at]),
              this.pick([BYTES, SHORTS, INTS]),
            ),
          }
        : {}),
    };
  }

  /** Numbers of 0 to 1 as integers: eighths are not, so that they are put into 255ths before they are known. */
  private whole(uvs: [number, number][], type: number): number {
    const most = type === BYTES ? 255 : 65535;
    for (const uv of uvs) for (const k of [0, 1]) uv[k] = Math.round(uv[k] * most) / most;
    return this.accessor(
      uvs.map((uv) => uv.map((value) => Math.round(value * most))),
      type,
      true,
    );
  }

  /** Rows of numbers at the end of the buffer, at times with gaps between them, or put right by a sparse list. */
  private accessor(rows: number[][], type = FLOAT, normalized = false): number {
    const { json } = this;
    const width = rows[0].length;
    const row = Math.ceil((width * WIDTH[type]) / 4) * 4;
    const isIndex = width === 1;
    const stride = isIndex ? WIDTH[type] : row + this.pick([0, 0, 4, 8]);
    const sparse = !isIndex && type === FLOAT && this.chance(0.2);
    const written = sparse ? rows.map((numbers, i) => (i === 1 ? numbers.map(() => 0.5) : numbers)) : rows;
    const view = this.view(written, type, stride, isIndex || stride === width * WIDTH[type] ? null : stride);
    const lows = rows[0].map((_, k) => Math.min(...rows.map((numbers) => Math.fround(numbers[k]))));
    const highs = rows[0].map((_, k) => Math.max(...rows.map((numbers) => Math.fround(numbers[k]))));
    json.accessors.push({
      bufferView: view,
      componentType: type,
      count: rows.length,
      type: LETTERS[width],
      ...(normalized ? { normalized } : {}),
      min: lows,
      max: highs,
      ...(sparse
        ? {
            sparse: {
              count: 1,
              indices: { bufferView: this.view([[1]], SHORTS, 2, null), componentType: SHORTS },
              values: { bufferView: this.view([rows[1]], FLOAT, 4 * width, null) },
            },
          }
        : {}),
    });
    return json.accessors.length - 1;
  }

  private view(rows: readonly number[][], type: number, stride: number, woven: number | null): number {
    while (this.bytes.length % 4 !== 0) this.bytes.push(0);
    const start = this.bytes.length;
    const data = new DataView(new ArrayBuffer(stride * rows.length));
    rows.forEach((numbers, i) => {
      numbers.forEach((value, k) => {
        const at = i * stride + k * WIDTH[type];
        if (type === FLOAT) data.setFloat32(at, value, true);
        else if (type === BYTES) data.setUint8(at, value);
        else if (type === SHORTS) data.setUint16(at, value, true);
        else data.setUint32(at, value, true);
      });
    });
    this.bytes.push(...new Uint8Array(data.buffer));
    this.json.bufferViews.push({
      buffer: 0,
      byteOffset: start,
      byteLength: data.byteLength,
      ...(woven ? { byteStride: woven } : {}),
    });
    return this.json.bufferViews.length - 1;
  }

  private addNode(above: Matrix4, depth: number, seen: boolean): number {
    const { nodes } = this.json;
    const node: Record<string, unknown> = { name: this.pick(['Post', 'Rail', 'Pöller', 'a/b']) };
    const index = nodes.push(node) - 1;
    const own = new Matrix4();
    if (this.chance(0.8)) {
      const place = new Vector3(...this.vector(-3, 3));
      const turn = new Quaternion(...this.vector(-1, 1), this.between(0.1, 1)).normalize();
      const scale = new Vector3(
        ...this.pick<[number, number, number][][number]>([
          [1, 1, 1],
          [2, 2, 2],
          [-1, 1, 1],
          [1, 2, 0.5],
        ]),
      );
      own.compose(place, turn, scale);
      if (this.chance(0.4)) node.matrix = own.toArray();
      else
        Object.assign(node, {
          translation: place.toArray(),
          rotation: turn.toArray(),
          scale: scale.toArray(),
        });
    }
    const world = above.clone().multiply(own);
    if (nodes.length === 1 || this.chance(0.75)) {
      const mesh = this.below(this.meshes.length);
      node.mesh = mesh;
      const copies = this.chance(0.15) ? this.copies(node) : [new Matrix4()];
      if (seen) for (const copy of copies) this.see(this.meshes[mesh], world.clone().multiply(copy));
    }
    if (depth < 3 && this.chance(0.5))
      node.children = Array.from({ length: 1 + this.below(2) }, () => this.addNode(world, depth + 1, seen));
    return index;
  }

  private copies(node: Record<string, unknown>): Matrix4[] {
    this.used.add('EXT_mesh_gpu_instancing');
    const places = Array.from({ length: 2 + this.below(3) }, () => this.vector(-2, 2));
    const scales = places.map((): [number, number, number] =>
      this.pick([
        [1, 1, 1],
        [0.5, 0.5, 0.5],
      ]),
    );
    node.extensions = {
      EXT_mesh_gpu_instancing: {
        attributes: { TRANSLATION: this.accessor(places), SCALE: this.accessor(scales) },
      },
    };
    return places.map((place, i) =>
      new Matrix4().makeTranslation(...place).multiply(new Matrix4().makeScale(...scales[i])),
    );
  }

  private see(pieces: readonly Piece[], world: Matrix4): void {
    const turned = new Matrix3().getNormalMatrix(world);
    const mirrored = world.determinant() < 0;
    for (const { look: index, places, normals, uvs, triangles } of pieces) {
      const look = this.looks[index];
      for (const triangle of triangles) {
        const face = triangle.map(
          (at): Corner => ({
            place: places[at].clone().applyMatrix4(world),
            uv: look.image ? laid(uvs[look.set][at], look) : null,
            normal: normals ? normals[at].clone().applyMatrix3(turned).normalize() : null,
          }),
        );
        addFace(paintOf(this.soup, look.colour), mirrored ? face.reverse() : face);
      }
    }
  }
}

/** KHR_texture_transform: scaled, turned, moved, from the upper left. */
function laid([u, v]: readonly number[], { scale, turn, move }: Look): [number, number] {
  const [x, y] = [u * scale[0], v * scale[1]];
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return [c * x + s * y + move[0], -s * x + c * y + move[1]];
}
