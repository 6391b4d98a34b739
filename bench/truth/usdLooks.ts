import type { Board } from './boards.ts';
import { light, type Stored } from './painting.ts';
import { bent, type KnownPlaces, type Meets } from './places.ts';
import { metalOf } from './reflecting.ts';
import {
  type Input,
  inner,
  metBy,
  PAINTS,
  plain,
  SETS,
  storedAt,
  type Taken,
  UsdBoards,
  type UsdLook,
} from './usdBoards.ts';

/** Inputs of UsdPreviewSurface that are one number, by what they are in glTF. */
const NUMBERS = {
  metallic: 'metallic',
  roughness: 'roughness',
  occlusion: 'occlusion',
  clearcoat: 'coat',
  clearcoatRoughness: 'coatRoughness',
} as const;
/** What the surface has where an input says nothing. */
const UNSAID: Record<string, number> = {
  metallic: 0,
  roughness: 0.5,
  occlusion: 1,
  clearcoat: 0,
  clearcoatRoughness: 0.01,
};

/**
 * Boards with materials of UsdPreviewSurface, written by hand in the many ways of its networks: images of several
 * kinds, one component of them, scale and bias, wraps, layouts, values by the material's own inputs, node graphs.
 * The same seed gives the same files.
 */
export function usdLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

class Writer extends UsdBoards {
  private nodes = 0;

  protected look(board: Board): UsdLook {
    const path = `/World/Looks/Paint${board.index}`;
    const graph = this.chance(0.25);
    const interfaces: string[] = [];
    const nodes: string[] = [];
    const outputs: string[] = [];
    const inputs: string[] = [];
    const images = Array.from({ length: 1 + this.below(3) }, (_, k) =>
      this.taken(`p${board.index}_${k}`, false),
    );
    const known: ((right: number, up: number) => Partial<Meets> | null)[] = [];
    const put = (name: string, type: string, input: Input) => {
      nodes.push(...input.nodes);
      const connected = graph && input.nodes.length > 0;
      if (connected) {
        outputs.push(`${type} outputs:${name}.connect = <${input.lines[0]}>`);
        inputs.push(`${type} inputs:${name}.connect = <${path}/Graph.outputs:${name}>`);
      } else if (input.nodes.length > 0) inputs.push(`${type} inputs:${name}.connect = <${input.lines[0]}>`);
      else if (this.chance(0.2)) {
        interfaces.push(`${type} inputs:${name}Of = ${input.lines[0]}`);
        inputs.push(`${type} inputs:${name}.connect = <${path}.inputs:${name}Of>`);
      } else inputs.push(`${type} inputs:${name} = ${input.lines[0]}`);
    };
    const root = graph ? `${path}/Graph` : path;
    const base = this.chance(0.15) ? this.paint(board, root) : this.colour(board, root, images);
    if (base) put('diffuseColor', 'color3f', base);
    const reflects = this.chance(0.25);
    const shine = reflects ? this.colour(board, root, images) : null;
    if (shine) put('specularColor', 'color3f', shine);
    if (reflects) inputs.push('int inputs:useSpecularWorkflow = 1');
    known.push((right, up) => {
      const pixel = base ? base.at(right, up) : ([0.18, 0.18, 0.18, 1] as Stored);
      if (!reflects) return pixel && { base: pixel.slice(0, 3) };
      const reflected = shine ? shine.at(right, up) : ([0, 0, 0, 1] as Stored);
      return pixel && reflected && metalOf(pixel.slice(0, 3), reflected.slice(0, 3));
    });
    const glow = this.chance(0.4) ? this.colour(board, root, images) : null;
    if (glow) put('emissiveColor', 'color3f', glow);
    known.push((right, up) => {
      const pixel = glow ? glow.at(right, up) : ([0, 0, 0, 1] as Stored);
      return pixel && { emission: pixel.slice(0, 3) };
    });
    for (const [name, word] of Object.entries(NUMBERS)) {
      const input = this.chance(0.5) ? this.number(board, root, images) : null;
      if (input) put(name, 'float', input);
      // What reflects is said by a colour.
      if (reflects && name === 'metallic') continue;
      known.push((right, up) => {
        if (!input) return { [word]: UNSAID[name] };
        const pixel = input.at(right, up);
        return pixel && { [word]: input.alone(pixel) };
      });
    }
    const cover = this.chance(0.4) ? this.number(board, root, images) : null;
    const threshold = cover && this.chance(0.5) ? this.between(0.2, 0.8) : 0;
    if (cover) put('opacity', 'float', cover);
    if (threshold > 0) inputs.push(`float inputs:opacityThreshold = ${threshold}`);
    known.push((right, up) => {
      if (!cover) return { opacity: 1 };
      const pixel = cover.at(right, up);
      if (!pixel) return null;
      const opacity = cover.alone(pixel);
      // Too near to tell.
      if (threshold > 0 && Math.abs(opacity - threshold) < 0.02) return null;
      if (threshold > 0) return { opacity: opacity < threshold ? 0 : 1 };
      return { opacity };
    });
    if (this.chance(0.4)) {
      const { nodes: bumps, line, at } = this.bumps(board, root);
      nodes.push(...bumps);
      inputs.push(`normal3f inputs:normal.connect = <${line}>`);
      known.push(at);
    }
    if (this.chance(0.3)) {
      const ior = this.between(1.1, 2);
      inputs.push(`float inputs:ior = ${ior}`);
      known.push(() => ({ ior }));
    }
    const lines = [
      `def Material "Paint${board.index}"`,
      '{',
      ...inner([
        ...interfaces,
        `token outputs:surface.connect = <${path}/Surface.outputs:surface>`,
        ...(graph ? ['def NodeGraph "Graph"', '{', ...inner([...outputs, ...nodes]), '}'] : nodes),
        'def Shader "Surface"',
        '{',
        '    uniform token info:id = "UsdPreviewSurface"',
        ...inner(inputs),
        '    token outputs:surface',
        '}',
      ]),
      '}',
    ];
    return { lines, meets: metBy(known) };
  }

  private colour(board: Board, root: string, images: readonly Taken[]): Input | null {
    if (this.chance(0.1)) return null;
    if (this.chance(0.3)) {
      const value = [this.between(0, 1), this.between(0, 1), this.between(0, 1)];
      return plain(`(${value.join(', ')})`, [...value, 1] as Stored);
    }
    const kind = this.below(3);
    const same = this.between(0.2, 0.9);
    const scale = [
      [1, 1, 1],
      [same, same, same],
      [this.between(0.2, 0.9), this.between(0.2, 0.9), same],
    ][kind];
    const space = this.pick(['sRGB', 'raw', 'auto', null]);
    // What is added to colours is told as not carried, but for light.
    const bias = kind === 1 && space === 'raw' ? this.between(0, 0.1) : 0;
    return this.texture(board, root, {
      image: { ...this.pick(images), space },
      scale: [...scale, 1],
      bias: [bias, bias, bias, 0],
      output: 'rgb',
    });
  }

  /** Colours of points, which go straight from edge to edge. */
  private paint({ index }: Board, root: string): Input {
    this.painted.add(index);
    const nodes = [
      'def Shader "Paints"',
      '{',
      '    uniform token info:id = "UsdPrimvarReader_float3"',
      '    string inputs:varname = "displayColor"',
      '    float3 outputs:result',
      '}',
    ];
    const [from, to] = PAINTS;
    const at = (right: number): Stored => {
      const [red, green, blue] = from.map((value, k) => value + (to[k] - value) * right);
      return [red, green, blue, 1];
    };
    return { lines: [`${root}/Paints.outputs:result`], nodes, at, alone: ([red]) => red };
  }

  private number(board: Board, root: string, images: readonly Taken[]): Input {
    if (this.chance(0.4)) {
      const value = this.between(0, 1);
      return plain(`${value}`, [value, value, value, value]);
    }
    const [gain, offset] = this.pick([
      [1, 0],
      [1, 0],
      [-1, 1],
      [this.between(0.2, 0.8), this.between(0, 0.2)],
      [-0.5, 0.9],
    ]);
    return this.texture(board, root, {
      image: { ...this.pick(images), space: 'raw' },
      scale: [gain, gain, gain, gain],
      bias: [offset, offset, offset, offset],
      output: this.pick(['r', 'g', 'b', 'a']),
    });
  }

  private texture(
    board: Board,
    root: string,
    { image, scale, bias, output }: { image: Taken; scale: number[]; bias: number[]; output: string },
  ): Input {
    const { name, nodes } = this.image(root, image, scale, bias);
    const bare = image.space === 'raw';
    return {
      lines: [`${root}/${name}.outputs:${output}`],
      nodes,
      at: (right, up) => {
        const stored = storedAt(board, image, right, up);
        return (
          stored &&
          (stored.map((value, k) => (bare || k === 3 ? value : light(value)) * scale[k] + bias[k]) as Stored)
        );
      },
      alone: (pixel) => pixel['rgba'.indexOf(output)],
    };
  }

  private bumps(board: Board, root: string) {
    const image = { ...this.taken(`n${board.index}`, true), space: 'raw' };
    const down = this.chance(0.3);
    const strength = this.pick([1, 1, 0.5, 2]);
    const [x, y] = [2 * strength, (down ? -2 : 2) * strength];
    const { name, nodes } = this.image(root, image, [x, y, 2, 1], [-x / 2, -y / 2, -1, 0]);
    const at = (right: number, up: number) => {
      const stored = storedAt(board, image, right, up);
      return stored && { normal: bent([stored[0], down ? 1 - stored[1] : stored[1], stored[2]], strength) };
    };
    return { nodes, line: `${root}/${name}.outputs:rgb`, at };
  }

  private image(
    root: string,
    image: Taken,
    scale: number[],
    bias: number[],
  ): { name: string; nodes: string[] } {
    this.nodes += 1;
    const number = this.nodes;
    const isLaid = image.laying !== null;
    const nodes = [
      `def Shader "Reader${number}"`,
      '{',
      '    uniform token info:id = "UsdPrimvarReader_float2"',
      `    ${this.pick(['string', 'token'])} inputs:varname = "${SETS[image.set]}"`,
      '    float2 outputs:result',
      '}',
    ];
    if (image.laying) {
      const { scale: by, turn, move } = image.laying;
      nodes.push(
        `def Shader "Laid${number}"`,
        '{',
        '    uniform token info:id = "UsdTransform2d"',
        `    float2 inputs:in.connect = <${root}/Reader${number}.outputs:result>`,
        `    float2 inputs:scale = (${by.join(', ')})`,
        ...(turn === 0 ? [] : [`    float inputs:rotation = ${turn}`]),
        `    float2 inputs:translation = (${move.join(', ')})`,
        '    float2 outputs:result',
        '}',
      );
    }
    const says = (numbers: number[], plain: number) => numbers.some((value) => value !== plain);
    nodes.push(
      `def Shader "Image${number}"`,
      '{',
      '    uniform token info:id = "UsdUVTexture"',
      `    asset inputs:file = @${this.pick(['', './'])}${image.file}@`,
      `    float2 inputs:st.connect = <${root}/${isLaid ? 'Laid' : 'Reader'}${number}.outputs:result>`,
      `    token inputs:wrapS = "${image.wrap[0]}"`,
      `    token inputs:wrapT = "${image.wrap[1]}"`,
      ...(image.space === null ? [] : [`    token inputs:sourceColorSpace = "${image.space}"`]),
      ...(says(scale, 1) ? [`    float4 inputs:scale = (${scale.join(', ')})`] : []),
      ...(says(bias, 0) ? [`    float4 inputs:bias = (${bias.join(', ')})`] : []),
      '    float3 outputs:rgb',
      '    float outputs:r',
      '    float outputs:g',
      '    float outputs:b',
      '    float outputs:a',
      '}',
    );
    return { name: `Image${number}`, nodes };
  }
}
