import type { Edit, SlotChange } from '@kinkajou/core/asset/asset';
import type { ChannelName } from '@kinkajou/core/scene/material';
import { type Board, BoardLot, CORNERS, type Run, uvAt } from './boards.ts';
import { BYTES, GltfBytes, SHORTS } from './gltfBytes.ts';
import { byte, direction, light, Painting, type Stored, type Wrap } from './painting.ts';
import { bent, type KnownPlaces, type Meets, type Place } from './places.ts';

const WRAPS: Record<Wrap, number> = { repeat: 10497, clamp: 33071, mirror: 33648 };

/** A texture of a material: which image, how it is sampled, and how it is laid. */
interface Taken {
  painting: Painting;
  texture: number;
  wrap: [Wrap, Wrap];
  set: number;
  scale: [number, number];
  /** In radians, as glTF has it. */
  turn: number;
  move: [number, number];
}

type Known = (right: number, up: number) => Partial<Meets> | null;

/**
 * Boards with materials of glTF, written member by member: factors beside images, images that several inputs share
 * or lie otherwise, samplers, colours of points, alpha modes, and extensions for coats, glass, cloth and strength.
 * The same seed gives the same files.
 */
export function gltfLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

/** The same with edits by hand: how slots read their images, values, and how materials are seen through. */
export function editedLooks(seed: number): KnownPlaces {
  const writer = new Writer(seed);
  writer.edits = [];
  return writer.known();
}

const BY_HAND = { from: 'hand' as const, detail: 'lot' };

class Writer extends BoardLot {
  /** What is done to the boards; null where nothing is. */
  edits: Edit[] | null = null;
  private readonly files: Record<string, Uint8Array> = {};
  private readonly used = new Set<string>();
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

  known(): KnownPlaces {
    const { json } = this;
    const places: Place[] = [];
    for (let i = 0; i < 1 + this.below(3); i += 1) {
      const board = this.board(i);
      const painted = this.chance(0.3) ? this.paints() : null;
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
    return { files: this.files, model: 'boards.gltf', places, ...(this.edits ? { edits: this.edits } : {}) };
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

  /** A texture, and how a material's input names it. */
  private taken(bumps = false): { taken: Taken; info: object } {
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
    const wrap: [Wrap, Wrap] = [
      this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
      this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
    ];
    const plain = wrap.every((side) => side === 'repeat') && this.chance(0.5);
    if (!plain) json.samplers.push({ wrapS: WRAPS[wrap[0]], wrapT: WRAPS[wrap[1]] });
    json.textures.push({ source: image, ...(plain ? {} : { sampler: json.samplers.length - 1 }) });
    const isLaid = this.chance(0.35);
    const taken: Taken = {
      painting: this.paintings[image],
      texture: json.textures.length - 1,
      wrap,
      set: this.below(2),
      scale: isLaid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      turn: isLaid && !bumps && this.chance(0.5) ? this.between(-3, 3) : 0,
      move: isLaid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
    return { taken, info: this.info(taken, isLaid) };
  }

  private info(taken: Taken, isLaid = true): object {
    const { texture, set, scale, turn, move } = taken;
    if (isLaid) this.used.add('KHR_texture_transform');
    return {
      index: texture,
      ...(set === 0 ? {} : { texCoord: set }),
      ...(isLaid ? { extensions: { KHR_texture_transform: { offset: move, rotation: turn, scale } } } : {}),
    };
  }

  /** Changes how a slot reads its image, at times. */
  private adjusted(board: Board, channel: ChannelName, map: unknown, change: SlotChange): boolean {
    if (!this.edits || !map || !this.chance(0.4)) return false;
    const slots = [{ material: `Paint${board.index}`, channel }];
    this.edits.push({ kind: 'adjustSlots', slots, change, origin: BY_HAND });
    return true;
  }

  /** A value that takes the place of the file's, at times. */
  private revalued(board: Board, channel: ChannelName, value: number): number {
    if (!this.edits || !this.chance(0.3)) return value;
    const given = this.between(0, 1);
    const slots = [{ material: `Paint${board.index}`, channel }];
    this.edits.push({ kind: 'setValues', slots, value: given, origin: BY_HAND });
    return given;
  }

  private look(board: Board, painted: [Stored, Stored] | null): { material: object; known: Known[] } {
    const known: Known[] = [];
    const extensions: Record<string, object> = {};
    const add = (name: string, members: object) => {
      extensions[name] = members;
      this.used.add(name);
    };
    const maybe = (share: number) => (this.chance(share) ? this.taken() : null);
    const factor = () => (this.chance(0.5) ? 1 : this.between(0, 1));
    const at = (of: { taken: Taken } | null, right: number, up: number): Stored | null =>
      of ? storedAt(board, of.taken, right, up) : [1, 1, 1, 1];

    const base = maybe(0.6);
    const tint = [factor(), factor(), factor(), factor()];
    const written = this.pick(['OPAQUE', 'OPAQUE', 'MASK', 'BLEND']);
    const least = this.chance(0.5) ? this.between(0.2, 0.8) : 0.5;
    let [mode, cutoff] = [written, least];
    // Whether colours are curved is a tag.
    const bare = this.adjusted(board, 'baseColor', base, { space: 'lin_rec709_scene' });
    if (this.edits && written !== 'OPAQUE' && this.chance(0.4)) {
      [mode, cutoff] = ['MASK', this.between(0.2, 0.8)];
      const change = { alphaMode: 'mask' as const, alphaCutoff: cutoff };
      this.edits.push({ kind: 'setAlpha', materials: [`Paint${board.index}`], change, origin: BY_HAND });
    }
    known.push((right, up) => {
      const stored = at(base, right, up);
      if (!stored) return null;
      const [from, to] = painted ?? [
        [1, 1, 1, 1],
        [1, 1, 1, 1],
      ];
      const paint = from.map((value, k) => value + (to[k] - value) * right);
      const alpha = tint[3] * stored[3] * paint[3];
      if (mode === 'MASK' && Math.abs(alpha - cutoff) < 0.02) return null;
      const shown = { OPAQUE: 1, BLEND: alpha, MASK: alpha < cutoff ? 0 : 1 }[mode] as number;
      const seen = stored.map((value) => (bare ? value : light(value)));
      return { base: [0, 1, 2].map((k) => tint[k] * seen[k] * paint[k]), opacity: shown };
    });

    const rough = maybe(0.5);
    const [metallic, roughness] = [factor(), factor()];
    const [mirrored, moved] = [
      this.adjusted(board, 'roughness', rough, { invert: true }),
      this.adjusted(board, 'metalness', rough, { component: 'r' }),
    ];
    const [metal, dull] = [
      this.revalued(board, 'metalness', metallic),
      this.revalued(board, 'roughness', roughness),
    ];
    known.push((right, up) => {
      const stored = at(rough, right, up);
      if (!stored) return null;
      const read = mirrored && rough ? 1 - stored[1] : stored[1];
      return { metallic: metal * stored[moved ? 0 : 2], roughness: dull * read };
    });

    // Often the same image, read alike or not.
    const shade = rough && this.chance(0.4) ? { ...rough, info: { ...rough.info } } : maybe(0.4);
    const turned = this.adjusted(board, 'occlusion', shade, { invert: true });
    const depth = factor();
    known.push((right, up) => {
      const stored = at(shade, right, up);
      return stored && { occlusion: shade ? 1 + depth * ((turned ? 1 - stored[0] : stored[0]) - 1) : 1 };
    });

    const glow = maybe(0.3);
    const shine = this.chance(0.5) ? [factor(), factor(), factor()] : [0, 0, 0];
    const strength = this.chance(0.3) ? this.between(0.5, 4) : 1;
    if (strength !== 1) add('KHR_materials_emissive_strength', { emissiveStrength: strength });
    known.push((right, up) => {
      const stored = at(glow, right, up);
      return stored && { emission: [0, 1, 2].map((k) => shine[k] * light(stored[k]) * strength) };
    });

    const bumps = this.chance(0.4) ? this.taken(true) : null;
    const steep = this.pick([1, 1, 0.5, 2]);
    const down = this.adjusted(board, 'normal', bumps, { normalY: 'Y-' });
    known.push((right, up) => {
      const stored = bumps && storedAt(board, bumps.taken, right, up);
      if (bumps && !stored) return null;
      if (stored && down) return { normal: bent([stored[0], 1 - stored[1], stored[2]], steep) };
      return { normal: stored ? bent(stored, steep) : [0, 0, 1] };
    });

    if (this.chance(0.3)) {
      const [weight, worn] = [maybe(0.4), maybe(0.4)];
      const [coat, coatRoughness] = [this.between(0.1, 1), factor()];
      add('KHR_materials_clearcoat', {
        clearcoatFactor: coat,
        clearcoatRoughnessFactor: coatRoughness,
        ...(weight ? { clearcoatTexture: weight.info } : {}),
        ...(worn ? { clearcoatRoughnessTexture: worn.info } : {}),
      });
      known.push((right, up) => {
        const [one, two] = [at(weight, right, up), at(worn, right, up)];
        return one && two && { coat: coat * one[0], coatRoughness: coatRoughness * two[1] };
      });
    }
    if (this.chance(0.2)) {
      const map = maybe(0.5);
      const transmission = factor();
      add('KHR_materials_transmission', {
        transmissionFactor: transmission,
        ...(map ? { transmissionTexture: map.info } : {}),
      });
      known.push((right, up) => {
        const stored = at(map, right, up);
        return stored && { transmission: transmission * stored[0] };
      });
    }
    if (this.chance(0.2)) {
      // Images of it, and tints, are told as not carried.
      const specular = factor();
      add('KHR_materials_specular', { specularFactor: specular });
      known.push(() => ({ specular }));
    }
    if (this.chance(0.2)) {
      const ior = this.between(1.1, 2.2);
      add('KHR_materials_ior', { ior });
      known.push(() => ({ ior }));
    }
    if (this.chance(0.2)) {
      const map = maybe(0.5);
      const sheen = [factor(), factor(), factor()];
      add('KHR_materials_sheen', {
        sheenColorFactor: sheen,
        sheenRoughnessFactor: this.between(0, 1),
        ...(map ? { sheenColorTexture: map.info } : {}),
      });
      known.push((right, up) => {
        const stored = at(map, right, up);
        return stored && { sheen: sheen.map((value, k) => value * light(stored[k])) };
      });
    }
    const material = {
      name: `Paint${board.index}`,
      pbrMetallicRoughness: {
        baseColorFactor: tint,
        metallicFactor: metallic,
        roughnessFactor: roughness,
        ...(base ? { baseColorTexture: base.info } : {}),
        ...(rough ? { metallicRoughnessTexture: rough.info } : {}),
      },
      ...(shade ? { occlusionTexture: { ...shade.info, strength: depth } } : {}),
      ...(bumps ? { normalTexture: { ...bumps.info, scale: steep } } : {}),
      emissiveFactor: shine,
      ...(glow ? { emissiveTexture: glow.info } : {}),
      ...(written === 'OPAQUE' ? {} : { alphaMode: written }),
      ...(written === 'MASK' ? { alphaCutoff: least } : {}),
      ...(Object.keys(extensions).length > 0 ? { extensions } : {}),
    };
    return { material, known };
  }
}

/** What an image has at a place of a board: glTF measures from the upper left and turns the other way. */
function storedAt({ runs }: Board, taken: Taken, right: number, up: number): Stored | null {
  const [u, v] = uvAt(runs[taken.set], right, up);
  const [x, y] = [u * taken.scale[0], (1 - v) * taken.scale[1]];
  const [c, s] = [Math.cos(taken.turn), Math.sin(taken.turn)];
  return taken.painting.at([c * x + s * y + taken.move[0], -s * x + c * y + taken.move[1]], taken.wrap);
}
