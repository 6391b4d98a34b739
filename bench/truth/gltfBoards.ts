import { type Board, BoardLot, CORNERS, type Run, uvAt } from './boards.ts';
import { BYTES, GltfBytes, SHORTS } from './gltfBytes.ts';
import { byte, direction, Painting, type Stored, type Wrap } from './painting.ts';
import type { KnownPlaces, Meets, Place } from './places.ts';

const WRAPS: Record<Wrap, number> = { repeat: 10497, clamp: 33071, mirror: 33648 };

/** A texture of a material: which image, how it is sampled, and how it is laid. */
export interface Taken {
  painting: Painting;
  texture: number;
  wrap: [Wrap, Wrap];
  set: number;
  scale: [number, number];
  /** In radians, as glTF has it. */
  turn: number;
  move: [number, number];
}

export type Known = (right: number, up: number) => Partial<Meets> | null;

/** Boards of glTF, each with a material of its own. */
export abstract class GltfBoards extends BoardLot {
  private readonly files: Record<string, Uint8Array> = {};
  protected readonly used = new Set<string>();
  /** How many boards have colours of points. */
  protected readonly paintedShare: number = 0.3;
  private readonly paintings: Painting[] = [];
  private readonly data = new GltfBytes();
  private readonly json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [] as number[] }],
    nodes: [] as object[],
    meshes: [] as object[],
    materials: [] as object[],
    accessors: this.data.accessors,
    bufferViews: this.data.bufferViews,
    buffers: [] as object[],
    images: [] as object[],
    samplers: [] as object[],
    textures: [] as object[],
    extensionsUsed: undefined as string[] | undefined,
  };

  /** A material as the file has it, and what is known of it. */
  protected abstract look(
    board: Board,
    painted: [Stored, Stored] | null,
  ): { material: object; known: Known[] };

  known(): KnownPlaces {
    const { json } = this;
    const places: Place[] = [];
    for (let i = 0; i < 1 + this.below(3); i += 1) {
      const board = this.board(i);
      const painted = this.chance(this.paintedShare) ? this.paints() : null;
      const { material, known } = this.look(board, painted);
      json.materials.push(material);
      this.addBoard(board, painted);
      places.push(
        ...this.placesOn(board, (right, up) => {
          const parts = known.map((part) => part(right, up));
          return parts.includes(null) ? null : Object.assign({}, ...parts);
        }),
      );
    }
    if (this.used.size > 0) json.extensionsUsed = [...this.used];
    json.buffers.push({ byteLength: this.data.bytes.length, uri: 'boards.bin' });
    this.files['boards.bin'] = Uint8Array.from(this.data.bytes);
    // Lists of nothing are not allowed.
    const written = Object.fromEntries(
      Object.entries(json).filter(([, value]) => !Array.isArray(value) || value.length > 0),
    );
    this.files['boards.gltf'] = new TextEncoder().encode(JSON.stringify(written));
    return { files: this.files, model: 'boards.gltf', places };
  }

  /** Colours of a board's left and right points. */
  private paints(): [Stored, Stored] {
    const make = (): Stored => [byte(this), byte(this), byte(this), byte(this, 128)];
    return [make(), make()];
  }

  private addBoard({ index, runs }: Board, painted: [Stored, Stored] | null): void {
    const { json } = this;
    // From the upper left, as glTF has it.
    const uvs = (run: Run) =>
      CORNERS.map((at) => {
        const [u, v] = uvAt(run, ...at);
        return [u, 1 - v];
      });
    const attributes: Record<string, number> = {
      POSITION: this.data.accessor(CORNERS.map(([right, up]) => [2 * index + right, up, 0])),
      TEXCOORD_0: this.data.accessor(uvs(runs[0])),
      TEXCOORD_1: this.data.accessor(uvs(runs[1])),
    };
    if (this.chance(0.5)) attributes.NORMAL = this.data.accessor(CORNERS.map(() => [0, 0, 1]));
    if (painted) {
      const width = this.pick([3, 4]);
      if (width === 3) for (const paint of painted) paint[3] = 1;
      const rows = CORNERS.map(([right]) => painted[right].slice(0, width));
      attributes.COLOR_0 =
        width === 4 && this.chance(0.5)
          ? this.data.accessor(
              rows.map((row) => row.map((value) => Math.round(value * 255))),
              BYTES,
              true,
            )
          : this.data.accessor(rows);
    }
    const order = [0, 1, 2, 0, 2, 3];
    json.meshes.push({
      primitives: [
        {
          attributes,
          material: index,
          indices: this.data.accessor(
            order.map((at) => [at]),
            SHORTS,
          ),
        },
      ],
    });
    json.scenes[0].nodes.push(json.nodes.length);
    json.nodes.push({ name: `Board${index}`, mesh: index });
  }

  /** A texture, and how a material's input names it; it may lie as another one does. */
  protected taken(bumps = false, like: Taken | null = null): { taken: Taken; info: object } {
    const { json } = this;
    const again = !bumps && this.paintings.length > 0 && this.chance(0.4);
    const image = again ? this.below(this.paintings.length) : this.paintings.length;
    if (!again) {
      const painting = bumps
        ? new Painting(this, 3, () => direction(this))
        : new Painting(this, this.pick([3, 4, 4]), () => [byte(this), byte(this), byte(this), byte(this)]);
      this.paintings.push(painting);
      this.files[`tide${image}.png`] = painting.png();
      json.images.push({ uri: `tide${image}.png` });
    }
    const lies = like ?? this.lies(!bumps);
    const { wrap } = lies;
    const plain = wrap.every((side) => side === 'repeat') && this.chance(0.5);
    if (!plain) json.samplers.push({ wrapS: WRAPS[wrap[0]], wrapT: WRAPS[wrap[1]] });
    json.textures.push({ source: image, ...(plain ? {} : { sampler: json.samplers.length - 1 }) });
    const taken: Taken = { ...lies, painting: this.paintings[image], texture: json.textures.length - 1 };
    return { taken, info: this.info(taken) };
  }

  private lies(turned: boolean): Omit<Taken, 'painting' | 'texture'> {
    const isLaid = this.chance(0.35);
    return {
      wrap: [
        this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
        this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
      ],
      set: this.below(2),
      scale: isLaid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      turn: isLaid && turned && this.chance(0.5) ? this.between(-3, 3) : 0,
      move: isLaid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
  }

  private info({ texture, set, scale, turn, move }: Taken): object {
    const isLaid = turn !== 0 || [...scale, ...move].some((component, k) => component !== [1, 1, 0, 0][k]);
    if (isLaid) this.used.add('KHR_texture_transform');
    return {
      index: texture,
      ...(set === 0 ? {} : { texCoord: set }),
      ...(isLaid ? { extensions: { KHR_texture_transform: { offset: move, rotation: turn, scale } } } : {}),
    };
  }
}

/** What an image has at a place of a board: glTF measures from the upper left and turns the other way. */
export function storedAt({ runs }: Board, taken: Taken, right: number, up: number): Stored | null {
  const [u, v] = uvAt(runs[taken.set], right, up);
  const [x, y] = [u * taken.scale[0], (1 - v) * taken.scale[1]];
  const [c, s] = [Math.cos(taken.turn), Math.sin(taken.turn)];
  return taken.painting.at([c * x + s * y + taken.move[0], -s * x + c * y + taken.move[1]], taken.wrap);
}
