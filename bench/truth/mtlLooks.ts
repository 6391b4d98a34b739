import { type Board, BoardLot, CORNERS, type Laying, laidBy, uvAt } from './boards.ts';
import { byte, direction, light, Painting, type Stored, type Wrap } from './painting.ts';
import { bent, type KnownPlaces, type Meets, type Place } from './places.ts';

/** Words of the extension for metalness and roughness that are one number, by what they are in glTF. */
const NUMBERS = { Pr: 'roughness', Pm: 'metallic', Pc: 'coat', Pcr: 'coatRoughness' } as const;
const ONES = [1, 1, 1];
const COMPONENTS = ['r', 'g', 'b', 'm'];

interface Taken {
  painting: Painting;
  laying: Laying | null;
  wrap: Wrap;
  /** The options and the path, as a library has them. */
  words: string;
}

/**
 * Boards of OBJ with a material library, written by hand: colours beside images, options of images in any order,
 * one component of them, classic exponents and the words for metalness and roughness, colours of points. The same
 * seed gives the same files.
 */
export function mtlLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

class Writer extends BoardLot {
  private readonly files: Record<string, Uint8Array> = {};
  private images = 0;

  known(): KnownPlaces {
    const places: Place[] = [];
    const model: string[] = ['mtllib quay deck.mtl'];
    const library: string[] = [];
    for (let i = 0; i < 1 + this.below(3); i += 1) {
      const board = this.board(i);
      // Colours of the left and the right points.
      const painted = this.chance(0.3) ? [this.paint(), this.paint()] : null;
      const { lines, meets } = this.look(board, painted);
      library.push(...lines);
      model.push(`o Board${i}`, `usemtl Paint${i}`);
      for (const [right, up] of CORNERS) {
        model.push(`v ${[2 * i + right, up, 0, ...(painted?.[right] ?? [])].join(' ')}`);
        model.push(`vt ${uvAt(board.runs[0], right, up).join(' ')}`);
      }
      model.push(this.pick(['f -4/-4 -3/-3 -2/-2 -1/-1', 'f -4/-4 -3/-3 -2/-2\nf -4/-4 -2/-2 -1/-1']));
      places.push(...this.placesOn(board, meets));
    }
    const end = this.pick(['\n', '\r\n']);
    this.files['boards.obj'] = new TextEncoder().encode(model.join('\n'));
    this.files['quay deck.mtl'] = new TextEncoder().encode(library.join(end));
    return { files: this.files, model: 'boards.obj', places };
  }

  private paint(): number[] {
    return [this.between(0, 1), this.between(0, 1), this.between(0, 1)];
  }

  private taken(component: string | null, bumps = false): Taken {
    this.images += 1;
    const painting = bumps
      ? new Painting(this, 3, () => direction(this))
      : new Painting(this, component === null ? 3 : this.pick(component === 'm' ? [4] : [3, 4]), () => [
          byte(this),
          byte(this),
          byte(this),
          byte(this),
        ]);
    const path = `${this.pick(['', 'tide marks/'])}tide ${this.images}.png`;
    this.files[path] = painting.png();
    const laying = this.laying(false);
    const wrap = this.pick<Wrap>(['repeat', 'repeat', 'clamp']);
    const options = [
      ...(laying ? [`-s ${laying.scale.join(' ')}${this.pick(['', ' 1'])}`] : []),
      ...(laying ? [`-o ${laying.move.join(' ')}${this.pick(['', ' 0'])}`] : []),
      ...(wrap === 'clamp' ? ['-clamp on'] : this.pick([[], ['-clamp off']])),
      ...(component === null ? [] : [`-imfchan ${component}`]),
    ];
    if (this.chance(0.5)) options.reverse();
    const written = this.pick([path, path.replaceAll('/', '\\'), `.\\${path.replaceAll('/', '\\')}`]);
    return { painting, laying, wrap, words: [...options, written].join(' ') };
  }

  private look(
    board: Board,
    painted: number[][] | null,
  ): { lines: string[]; meets: (right: number, up: number) => Meets | null } {
    const known: ((right: number, up: number) => Partial<Meets> | null)[] = [];
    const lines: string[] = [];
    const at = (taken: Taken | null, right: number, up: number): Stored | null => {
      if (!taken) return [1, 1, 1, 1];
      const [u, v] = laidBy(taken.laying, uvAt(board.runs[0], right, up));
      return taken.painting.at([u, 1 - v], [taken.wrap, taken.wrap]);
    };
    const colour = (word: string, target: 'base' | 'emission') => {
      const map = this.chance(0.5) ? this.taken(null) : null;
      const value = [this.between(0.1, 1), this.between(0.1, 1), this.between(0.1, 1)];
      lines.push(`${word} ${value.join(' ')}`);
      if (map) lines.push(`map_${word} ${map.words}`);
      known.push((right, up) => {
        const stored = at(map, right, up);
        // Beside an image colours of points are something else.
        const [from, to] = (target === 'base' && !map && painted) || [ONES, ONES];
        const paint = from.map(
          (component, k) => light(component) + (light(to[k]) - light(component)) * right,
        );
        return stored && { [target]: value.map((component, k) => component * light(stored[k]) * paint[k]) };
      });
    };
    colour('Kd', 'base');
    if (this.chance(0.4)) colour('Ke', 'emission');
    const modern = this.chance(0.6);
    if (!modern && this.chance(0.8)) {
      const exponent = this.pick([2, 10, 96, 250, 1000]);
      lines.push(`Ns ${exponent}`, 'Ks 0 0 0');
      // CRAFT: alpha = sqrt(2 / (Ns + 2)), and alpha is roughness squared.
      known.push(() => ({ metallic: 0, roughness: Math.sqrt(Math.sqrt(2 / (exponent + 2))) }));
    }
    if (modern) {
      // One of them at least, so that the library speaks of metalness and roughness.
      for (const [word, target] of Object.entries(NUMBERS)) {
        if (word !== 'Pr' && !this.chance(0.6)) continue;
        const component = this.pick(COMPONENTS);
        const map = this.chance(0.5) ? this.taken(component) : null;
        const value = map && this.chance(0.6) ? 1 : this.between(0.1, 1);
        if (value !== 1 || !map) lines.push(`${word} ${value}`);
        if (map) lines.push(`map_${word} ${map.words}`);
        known.push((right, up) => {
          const stored = at(map, right, up);
          return stored && { [target]: value * (map ? stored[COMPONENTS.indexOf(component)] : 1) };
        });
      }
      if (this.chance(0.4)) {
        const map = this.taken(null, true);
        lines.push(`norm ${map.words}`);
        known.push((right, up) => {
          const stored = at(map, right, up);
          return stored && { normal: bent(stored, 1) };
        });
      }
    }
    if (this.chance(0.4)) {
      const component = this.pick(COMPONENTS);
      const map = this.chance(0.6) ? this.taken(component) : null;
      const value = map ? 1 : this.between(0, 1);
      const word = !map && this.chance(0.3);
      if (!map || this.chance(0.5)) lines.push(word ? `Tr ${1 - value}` : `d ${value}`);
      if (map) lines.push(`map_d ${map.words}`);
      known.push((right, up) => {
        const stored = at(map, right, up);
        return stored && { opacity: value * (map ? stored[COMPONENTS.indexOf(component)] : 1) };
      });
    }
    if (this.chance(0.3)) {
      const ior = this.between(1.1, 2);
      lines.push(`Ni ${ior}`);
      known.push(() => ({ ior }));
    }
    // Programs write them in any order.
    if (this.chance(0.3)) lines.reverse();
    const meets = (right: number, up: number): Meets | null => {
      const parts = known.map((part) => part(right, up));
      return parts.includes(null) ? null : Object.assign({}, ...parts);
    };
    return {
      lines: [`newmtl Paint${board.index}`, ...lines.map((line) => `${this.pick(['', '\t'])}${line}`)],
      meets,
    };
  }
}
