import type { Board } from './boards.ts';
import { GltfBoards, type Known, storedAt } from './gltfBoards.ts';
import { light, type Stored } from './painting.ts';
import type { KnownPlaces } from './places.ts';
import { metalOf } from './reflecting.ts';

/**
 * Boards whose materials reflect by colour: KHR_materials_pbrSpecularGlossiness of glTF, with factors, images that
 * lie alike or each in its own way, and alpha. The same seed gives the same files.
 */
export function glossLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

class Writer extends GltfBoards {
  // Colours of points tint the light of what is painted, which no colour of metals is.
  protected override readonly paintedShare = 0;

  protected look(board: Board): { material: object; known: Known[] } {
    this.used.add('KHR_materials_pbrSpecularGlossiness');
    const factor = () => (this.chance(0.5) ? 1 : this.between(0.1, 1));
    const diffuse = this.chance(0.7) ? this.taken() : null;
    const like = this.chance(0.5) ? diffuse?.taken : null;
    const shine = this.chance(0.7) ? this.taken(false, like) : null;
    const tint = [factor(), factor(), factor(), factor()];
    const bright = [factor(), factor(), factor()];
    const smooth = factor();
    const mode = this.pick(['OPAQUE', 'BLEND']);
    const known: Known = (right, up) => {
      const stored = diffuse ? storedAt(board, diffuse.taken, right, up) : WHITE;
      const reflected = shine ? storedAt(board, shine.taken, right, up) : WHITE;
      if (!stored || !reflected) return null;
      const solved = metalOf(
        tint.slice(0, 3).map((component, k) => component * light(stored[k])),
        bright.map((component, k) => component * light(reflected[k])),
      );
      const opacity = mode === 'BLEND' ? tint[3] * stored[3] : 1;
      return { ...solved, roughness: 1 - smooth * reflected[3], opacity };
    };
    const material = {
      name: `Paint${board.index}`,
      ...(mode === 'OPAQUE' ? {} : { alphaMode: mode }),
      extensions: {
        KHR_materials_pbrSpecularGlossiness: {
          diffuseFactor: tint,
          specularFactor: bright,
          glossinessFactor: smooth,
          ...(diffuse ? { diffuseTexture: diffuse.info } : {}),
          ...(shine ? { specularGlossinessTexture: shine.info } : {}),
        },
      },
    };
    return { material, known: [known] };
  }
}

const WHITE: Stored = [1, 1, 1, 1];
