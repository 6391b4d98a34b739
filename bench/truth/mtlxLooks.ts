import type { Board, Laying } from './boards.ts';
import { light, type Stored } from './painting.ts';
import { bent, type KnownPlaces, type Meets } from './places.ts';
import { inner, metBy, SETS, storedAt, type Taken, UsdBoards, type UsdLook } from './usdBoards.ts';

/** A surface of MaterialX: its inputs by what they are in glTF, and what it has where they say nothing. */
interface Surface {
  id: string;
  base: string;
  /** What the base colour is multiplied by. */
  weight: string | null;
  numbers: Partial<Record<keyof Meets, string>>;
  emission: { colour: string; strength: string; unsaid: number };
  /** Cloth, how much of it, and how rough. */
  sheen: { colour: string; weight: string | null; roughness: string; unsaid: number };
  opacity: { name: string; type: 'float' | 'color3' };
  normal: string;
  unsaid: Meets;
}

const SURFACES: readonly Surface[] = [
  {
    id: 'ND_standard_surface_surfaceshader',
    base: 'base_color',
    weight: 'base',
    numbers: {
      metallic: 'metalness',
      roughness: 'specular_roughness',
      coat: 'coat',
      coatRoughness: 'coat_roughness',
      transmission: 'transmission',
      ior: 'specular_IOR',
      specular: 'specular',
    },
    emission: { colour: 'emission_color', strength: 'emission', unsaid: 0 },
    sheen: { colour: 'sheen_color', weight: 'sheen', roughness: 'sheen_roughness', unsaid: 0.3 },
    opacity: { name: 'opacity', type: 'color3' },
    normal: 'normal',
    unsaid: { base: [0.8, 0.8, 0.8], metallic: 0, roughness: 0.2, coat: 0, transmission: 0 },
  },
  {
    id: 'ND_open_pbr_surface_surfaceshader',
    base: 'base_color',
    weight: 'base_weight',
    numbers: {
      metallic: 'base_metalness',
      roughness: 'specular_roughness',
      coat: 'coat_weight',
      coatRoughness: 'coat_roughness',
      transmission: 'transmission_weight',
      ior: 'specular_ior',
      specular: 'specular_weight',
    },
    emission: { colour: 'emission_color', strength: 'emission_luminance', unsaid: 0 },
    sheen: { colour: 'fuzz_color', weight: 'fuzz_weight', roughness: 'fuzz_roughness', unsaid: 0.5 },
    opacity: { name: 'geometry_opacity', type: 'float' },
    normal: 'geometry_normal',
    unsaid: { base: [0.8, 0.8, 0.8], metallic: 0, roughness: 0.3, coat: 0, transmission: 0 },
  },
  {
    id: 'ND_gltf_pbr_surfaceshader',
    base: 'base_color',
    weight: null,
    numbers: {
      metallic: 'metallic',
      roughness: 'roughness',
      occlusion: 'occlusion',
      coat: 'clearcoat',
      coatRoughness: 'clearcoat_roughness',
      transmission: 'transmission',
      ior: 'ior',
      specular: 'specular',
    },
    emission: { colour: 'emissive', strength: 'emissive_strength', unsaid: 1 },
    sheen: { colour: 'sheen_color', weight: null, roughness: 'sheen_roughness', unsaid: 0 },
    opacity: { name: 'alpha', type: 'float' },
    normal: 'normal',
    unsaid: { base: [1, 1, 1], metallic: 1, roughness: 1, occlusion: 1, coat: 0, transmission: 0 },
  },
];

type Known = (right: number, up: number) => Partial<Meets> | null;

/** A colour or number: a value, or the output of a node. */
interface Input {
  words: string;
  at(right: number, up: number): Stored | null;
}

/**
 * Boards with surfaces of MaterialX in USD, written by hand: images of several types, one component taken out,
 * inversion, multiplication, normal maps with a strength, colour spaces of files, weights that are said or not. The
 * same seed gives the same files.
 */
export function mtlxLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

class Writer extends UsdBoards {
  private count = 0;
  private nodes: string[] = [];
  private root = '';

  protected look(board: Board): UsdLook {
    const path = `/World/Looks/Paint${board.index}`;
    const surface = this.pick(SURFACES);
    const graph = this.chance(0.4);
    this.root = graph ? `${path}/Graph` : path;
    this.nodes = [];
    const inputs: string[] = [];
    const outputs: string[] = [];
    const known: Known[] = [
      () => surface.unsaid,
      () => ({ opacity: 1, emission: [0, 0, 0], sheen: [0, 0, 0], specular: 1, reflects: [1, 1, 1] }),
    ];
    const images = Array.from({ length: 2 }, (_, k) => this.taken(`p${board.index}_${k}`, false));
    const put = (name: string, type: string, words: string) => {
      if (!words.startsWith('<')) inputs.push(`${type} inputs:${name} = ${words}`);
      else if (graph) {
        outputs.push(`${type} outputs:${name}_out.connect = ${words}`);
        inputs.push(`${type} inputs:${name}.connect = <${path}/Graph.outputs:${name}_out>`);
      } else inputs.push(`${type} inputs:${name}.connect = ${words}`);
    };

    if (this.chance(0.9)) {
      const weight = surface.weight && this.chance(0.5) ? this.between(0.3, 1) : 1;
      if (surface.weight && weight !== 1) put(surface.weight, 'float', `${weight}`);
      const base = this.colour(board, images);
      put(surface.base, 'color3f', base.words);
      known.push((right, up) => {
        const pixel = base.at(right, up);
        return pixel && { base: pixel.slice(0, 3).map((component) => component * weight) };
      });
    }
    for (const [word, name] of Object.entries(surface.numbers)) {
      if (!this.chance(word === 'transmission' ? 0.15 : 0.5)) continue;
      const value = this.between(1.1, 2);
      // Of glTF occlusion is an image, and glass has one index.
      const input =
        word === 'ior'
          ? { words: `${value}`, at: (): Stored => [value, 0, 0, 0] }
          : this.number(board, images, word === 'occlusion');
      put(name, 'float', input.words);
      known.push((right, up) => {
        const pixel = input.at(right, up);
        return pixel && { [word]: pixel[0] };
      });
    }
    if (this.chance(0.3)) {
      const tint = this.colour(board, images);
      put('specular_color', 'color3f', tint.words);
      known.push((right, up) => {
        const pixel = tint.at(right, up);
        return pixel && { reflects: pixel.slice(0, 3) };
      });
    }
    if (this.chance(0.4)) this.addLight(board, surface, images, { put, known });
    if (this.chance(0.3)) {
      const { colour, weight, roughness, unsaid } = surface.sheen;
      const share = this.pick([0, 0.5, 1]);
      const value = [this.between(0, 1), this.between(0, 1), this.between(0, 1)];
      put(colour, 'color3f', `(${value.join(', ')})`);
      // All inputs are often written, needed or not.
      if (weight && (share !== 0 || this.chance(0.5))) put(weight, 'float', `${share}`);
      const clothRoughness = this.chance(0.6) ? this.between(0, 1) : unsaid;
      if (clothRoughness !== unsaid) put(roughness, 'float', `${clothRoughness}`);
      const sheen = value.map((component) => component * (weight ? share : 1));
      known.push(() => ({ sheen, clothRoughness }));
    }
    if (this.chance(0.4)) this.addOpacity(board, surface, images, { put, known });
    if (this.chance(0.4)) {
      const { words, at } = this.bumps(board, surface);
      put(surface.normal, 'float3', words);
      known.push(at);
    }
    const lines = [
      `def Material "Paint${board.index}"`,
      '{',
      ...inner([
        `token outputs:mtlx:surface.connect = <${path}/Surface.outputs:out>`,
        ...(graph ? ['def NodeGraph "Graph"', '{', ...inner([...outputs, ...this.nodes]), '}'] : this.nodes),
        'def Shader "Surface"',
        '{',
        `    uniform token info:id = "${surface.id}"`,
        ...inner(inputs),
        '    token outputs:out',
        '}',
      ]),
      '}',
    ];
    return { lines, meets: metBy(known) };
  }

  private addLight(
    board: Board,
    { emission }: Surface,
    images: readonly Taken[],
    { put, known }: { put(name: string, type: string, words: string): void; known: Known[] },
  ): void {
    const glow = this.colour(board, images);
    const strength = this.chance(0.7) ? this.pick([0.5, 1, 3]) : emission.unsaid;
    put(emission.colour, 'color3f', glow.words);
    if (strength !== emission.unsaid) put(emission.strength, 'float', `${strength}`);
    known.push((right, up) => {
      const pixel = glow.at(right, up);
      return pixel && { emission: pixel.slice(0, 3).map((component) => component * strength) };
    });
  }

  private addOpacity(
    board: Board,
    { opacity, id }: Surface,
    images: readonly Taken[],
    { put, known }: { put(name: string, type: string, words: string): void; known: Known[] },
  ): void {
    const isColour = opacity.type === 'color3';
    const cover = this.number(board, images, isColour ? null : false);
    const value = this.between(0, 1);
    const bare = isColour || this.chance(0.3);
    if (isColour) put(opacity.name, 'color3f', `(${value}, ${value}, ${value})`);
    else put(opacity.name, 'float', bare ? `${value}` : cover.words);
    const mode = id.includes('gltf') ? this.pick([0, 1, 2]) : 2;
    const cutoff = this.pick([0.5, 0.3]);
    if (id.includes('gltf')) {
      put('alpha_mode', 'int', `${mode}`);
      if (cutoff !== 0.5 || this.chance(0.5)) put('alpha_cutoff', 'float', `${cutoff}`);
    }
    known.push((right, up) => {
      const stored = bare ? value : cover.at(right, up)?.[0];
      if (stored === undefined || (mode === 1 && Math.abs(stored - cutoff) < 0.02)) return null;
      return { opacity: [1, stored < cutoff ? 0 : 1, stored][mode] };
    });
  }

  /** A node, below the material or its graph; told by its output. */
  private node(id: string, inputs: string[], output: string, type: string): string {
    this.count += 1;
    const name = `Node${this.count}`;
    this.nodes.push(
      `def Shader "${name}"`,
      '{',
      `    uniform token info:id = "${id}"`,
      ...inner(inputs),
      `    ${type} outputs:${output}`,
      '}',
    );
    return `<${this.root}/${name}.outputs:${output}>`;
  }

  private colour(board: Board, images: readonly Taken[]): Input {
    if (this.chance(0.3)) {
      const value = [this.between(0, 1), this.between(0, 1), this.between(0, 1)];
      return { words: `(${value.join(', ')})`, at: () => [...value, 1] as Stored };
    }
    const image = this.pick(images);
    const coded = this.chance(0.7);
    const wide = image.painting.width === 4 && this.chance(0.4);
    const read = (right: number, up: number) => {
      const stored = storedAt(board, image, right, up);
      return stored && (stored.map((value, k) => (coded && k < 3 ? light(value) : value)) as Stored);
    };
    let words = this.image(image, wide ? 'color4' : 'color3', coded ? 'srgb_texture' : 'lin_rec709');
    if (wide)
      words = this.node(
        'ND_convert_color4_color3',
        [`color4f inputs:in.connect = ${words}`],
        'out',
        'color3f',
      );
    if (!this.chance(0.3)) return { words, at: read };
    const by = [this.between(0.2, 1), this.between(0.2, 1), this.between(0.2, 1)];
    const swapped = this.chance(0.5);
    words = this.node(
      'ND_multiply_color3',
      [
        `color3f inputs:in${swapped ? 2 : 1}.connect = ${words}`,
        `color3f inputs:in${swapped ? 1 : 2} = (${by.join(', ')})`,
      ],
      'out',
      'color3f',
    );
    return {
      words,
      at: (right, up) => {
        const pixel = read(right, up);
        return pixel && (pixel.map((value, k) => value * (by[k] ?? 1)) as Stored);
      },
    };
  }

  /** Of a number the first component counts. `only` images, or (null) values alone. */
  private number(board: Board, images: readonly Taken[], only: boolean | null): Input {
    if (only === null || (!only && this.chance(0.4))) {
      const value = this.between(0, 1);
      return { words: `${value}`, at: () => [value, value, value, value] };
    }
    const image = this.pick(images);
    const part = this.below(image.painting.width);
    let words = this.component(image, part);
    let change = (value: number) => value;
    const kind = this.below(5);
    if (kind === 0) {
      words = this.node('ND_invert_float', [`float inputs:in.connect = ${words}`], 'out', 'float');
      change = (value) => 1 - value;
    } else if (kind === 1) {
      const by = this.between(0.2, 1);
      words = this.node(
        'ND_multiply_float',
        [`float inputs:in1.connect = ${words}`, `float inputs:in2 = ${by}`],
        'out',
        'float',
      );
      change = (value) => value * by;
    }
    return {
      words,
      at: (right, up) => {
        const stored = storedAt(board, image, right, up);
        return stored && [change(stored[part]), 0, 0, 0];
      },
    };
  }

  private component(image: Taken, part: number): string {
    const letter = 'rgba'[part];
    if (part === 0 && this.chance(0.5)) return this.image(image, 'float', 'raw');
    if (part < 3 && this.chance(0.5)) {
      const words = this.image(image, 'color3', 'raw');
      return this.node(
        'ND_separate3_color3',
        [`color3f inputs:in.connect = ${words}`],
        `out${letter}`,
        'float',
      );
    }
    const words = this.image(image, 'color4', 'raw');
    return this.chance(0.5)
      ? this.node(
          'ND_extract_color4',
          [`color4f inputs:in.connect = ${words}`, `int inputs:index = ${part}`],
          'out',
          'float',
        )
      : this.node('ND_separate4_color4', [`color4f inputs:in.connect = ${words}`], `out${letter}`, 'float');
  }

  private image(image: Taken, type: 'float' | 'color3' | 'color4' | 'vector3', space: string): string {
    const set = SETS[image.set];
    const coordinates = this.chance(0.5)
      ? this.node('ND_geompropvalue_vector2', [`string inputs:geomprop = "${set}"`], 'out', 'float2')
      : this.node('ND_UsdPrimvarReader_vector2', [`string inputs:varname = "${set}"`], 'out', 'float2');
    const laid = image.laying ? this.placed(image.laying, coordinates) : coordinates;
    const address = { repeat: 'periodic', clamp: 'clamp', mirror: 'mirror' };
    const types = { float: 'float', color3: 'color3f', color4: 'color4f', vector3: 'float3' };
    return this.node(
      `ND_image_${type}`,
      [
        `asset inputs:file = @${image.file}@ ( colorSpace = "${space}" )`,
        `float2 inputs:texcoord.connect = ${laid}`,
        `string inputs:uaddressmode = "${address[image.wrap[0]]}"`,
        `string inputs:vaddressmode = "${address[image.wrap[1]]}"`,
      ],
      'out',
      types[type],
    );
  }

  /** UVs laid out by USD's node or by MaterialX's, which divides, about a pivot, and in two orders. */
  private placed({ scale, turn, move }: Laying, coordinates: string): string {
    const pair = ([u, v]: readonly number[]) => `(${u}, ${v})`;
    if (turn !== 0 || this.chance(0.5))
      return this.node(
        'UsdTransform2d',
        [
          `float2 inputs:in.connect = ${coordinates}`,
          `float2 inputs:scale = ${pair(scale)}`,
          `float inputs:rotation = ${turn}`,
          `float2 inputs:translation = ${pair(move)}`,
        ],
        'result',
        'float2',
      );
    const pivot = [this.between(-1, 1), this.between(-1, 1)];
    const moveLast = this.chance(0.5);
    // (uv - pivot) * scale - offset + pivot, or (uv - pivot - offset) * scale + pivot, is uv * scale + move.
    const offset = move
      .map((component, k) => pivot[k] * (1 - scale[k]) - component)
      .map((component, k) => (moveLast ? component : component / scale[k]));
    return this.node(
      // The id that the standard's own library of nodes gives it.
      'ND_place2d_vector2',
      [
        `float2 inputs:texcoord.connect = ${coordinates}`,
        `float2 inputs:pivot = ${pair(pivot)}`,
        `float2 inputs:scale = ${pair(scale.map((component) => 1 / component))}`,
        `float2 inputs:offset = ${pair(offset)}`,
        ...(moveLast ? [] : ['int inputs:operationorder = 1']),
      ],
      'out',
      'float2',
    );
  }

  private bumps(board: Board, surface: Surface): { words: string; at: Known } {
    const image = this.taken(`n${board.index}`, true);
    const strength = this.pick([1, 1, 0.5, 2]);
    const words = this.node(
      surface.id.includes('gltf') && this.chance(0.5) ? 'ND_normalmap' : 'ND_normalmap_float',
      [
        `float3 inputs:in.connect = ${this.image(image, 'vector3', 'raw')}`,
        ...(strength === 1 ? [] : [`float inputs:scale = ${strength}`]),
      ],
      'out',
      'float3',
    );
    const at: Known = (right, up) => {
      const stored = storedAt(board, image, right, up);
      return stored && { normal: bent(stored, strength) };
    };
    return { words, at };
  }
}
