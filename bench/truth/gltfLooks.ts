import type { Edit, SlotChange } from '@kinkajou/core/asset/asset';
import type { ChannelName } from '@kinkajou/core/scene/material';
import type { Board } from './boards.ts';
import { GltfBoards, type Known, storedAt, type Taken } from './gltfBoards.ts';
import { light, type Stored } from './painting.ts';
import { bent, type KnownPlaces } from './places.ts';

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

class Writer extends GltfBoards {
  /** What is done to the boards; null where nothing is. */
  edits: Edit[] | null = null;

  override known(): KnownPlaces {
    const known = super.known();
    return this.edits ? { ...known, edits: this.edits } : known;
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

  protected look(board: Board, painted: [Stored, Stored] | null): { material: object; known: Known[] } {
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
      const [weight, hue] = [maybe(0.4), maybe(0.4)];
      // Often one image, as the extension is made for.
      const both = hue && this.chance(0.5) ? { ...hue, info: { ...hue.info } } : weight;
      const specular = factor();
      const reflected = [factor(), factor(), factor()];
      add('KHR_materials_specular', {
        specularFactor: specular,
        specularColorFactor: reflected,
        ...(both ? { specularTexture: both.info } : {}),
        ...(hue ? { specularColorTexture: hue.info } : {}),
      });
      known.push((right, up) => {
        const [one, two] = [at(both, right, up), at(hue, right, up)];
        if (!one || !two) return null;
        return {
          specular: specular * one[3],
          reflects: reflected.map((value, k) => value * light(two[k])),
        };
      });
    }
    if (this.chance(0.2)) {
      const ior = this.between(1.1, 2.2);
      add('KHR_materials_ior', { ior });
      known.push(() => ({ ior }));
    }
    if (this.chance(0.2)) {
      const map = maybe(0.5);
      const sheen = [factor(), factor(), factor()];
      const clothRoughness = this.between(0, 1);
      add('KHR_materials_sheen', {
        sheenColorFactor: sheen,
        sheenRoughnessFactor: clothRoughness,
        ...(map ? { sheenColorTexture: map.info } : {}),
      });
      known.push((right, up) => {
        const stored = at(map, right, up);
        return stored && { sheen: sheen.map((value, k) => value * light(stored[k])), clothRoughness };
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
