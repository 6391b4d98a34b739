import { Vector3 } from 'three';
import { Lot } from '../fuzz/lot.ts';
import { PIXEL } from './pixel.ts';
import { addFace, type Corner, type Known, paintOf, type Soup } from './soup.ts';

const NAMES = ['Paint', 'wet rope', 'Pöller', 'deck.001', 'a/b'];

/** A material: its colour, and how its image of light is laid. */
interface Look {
  name: string;
  colour: number[];
  image: boolean;
  scale: [number, number];
  move: [number, number];
}

/**
 * An OBJ with its libraries in all the ways in which people and programs write them: counted from the start or the
 * end, with or without UVs and normals, broken over lines, in groups and objects, with materials from several
 * libraries, options before images, points with colours, loose points and lines. The same seed gives the same files.
 */
export function strangeObj(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends Lot {
  private readonly lines: string[] = [];
  private readonly soup: Soup = new Map();
  private readonly points: Vector3[] = [];
  private readonly uvs: [number, number][] = [];
  private readonly normals: Vector3[] = [];

  known(): Known {
    const looks = NAMES.slice(0, 1 + this.below(NAMES.length)).map((name, i) => this.look(name, i));
    const half = this.chance(0.4) ? Math.ceil(looks.length / 2) : looks.length;
    const libraries = [looks.slice(0, half), looks.slice(half)].filter((list) => list.length > 0);
    const files: Record<string, Uint8Array> = { 'tide mark.png': PIXEL };
    libraries.forEach((list, i) => {
      files[`paints ${i}.mtl`] = this.bytes(list.flatMap((look) => this.lookLines(look)));
    });
    this.lines.push('# Harrow Quay', ...libraries.map((_, i) => `mtllib paints ${i}.mtl`));
    for (let i = 0; i < 1 + this.below(4); i += 1) {
      if (this.chance(0.8))
        this.lines.push(`${this.pick(['o', 'g'])} ${this.pick(['Post', 'Rail two', 'Deck'])}`);
      this.sheet(looks);
    }
    if (this.chance(0.2)) this.lines.push('p 1', 'l 1 2', 'vp 0.5 0.5');
    files['quay.obj'] = this.bytes(this.lines);
    return { files, model: 'quay.obj', soup: this.soup };
  }

  private bytes(lines: readonly string[]): Uint8Array {
    return new TextEncoder().encode([...lines, ''].join(this.chance(0.3) ? '\r\n' : '\n'));
  }

  private vector(least: number, most: number): [number, number, number] {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  private look(name: string, index: number): Look {
    const laid = this.chance(0.3);
    return {
      name,
      colour: [0.1 + 0.1 * index, this.between(0, 1), this.between(0, 1)],
      image: this.chance(0.6),
      scale: laid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      move: laid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
  }

  private lookLines({ name, colour, image, scale, move }: Look): string[] {
    const indent = this.pick(['', '\t', '  ']);
    const laid = scale[0] !== 1 || move[0] !== 0;
    const options = laid
      ? `-s ${scale.join(' ')} 1 -o ${move.join(' ')} 0 `
      : this.pick(['', '', '-clamp off ']);
    return [
      `newmtl ${name}`,
      `${indent}Ns 10`,
      `${indent}Ka 0 0 0`,
      `${indent}Kd ${this.numbers(colour)}`,
      ...(image ? [`${indent}Ke 1 1 1`, `${indent}map_Ke ${options}tide mark.png`] : []),
      `${indent}illum 2`,
      ...(this.chance(0.5) ? [''] : []),
    ];
  }

  private numbers(list: readonly number[]): string {
    const way = this.below(4);
    const blank = this.pick([' ', ' ', '  ', '\t']);
    return list.map((value) => [value.toExponential(), value.toFixed(6)][way] ?? `${value}`).join(blank);
  }

  /** A waved sheet; its faces in any order, each corner told in the way that the sheet has. */
  private sheet(looks: readonly Look[]): void {
    const [wide, high] = [1 + this.below(3), 1 + this.below(3)];
    const place = this.vector(-3, 3);
    const [hasUvs, hasNormals, coloured] = [this.chance(0.8), this.chance(0.6), this.chance(0.2)];
    const [firstPoint, firstUv, firstNormal] = [this.points.length, this.uvs.length, this.normals.length];
    for (let y = 0; y <= high; y += 1)
      for (let x = 0; x <= wide; x += 1) {
        const point = new Vector3(x + place[0], y + place[1], this.between(-0.2, 0.2) + place[2]);
        this.points.push(point);
        const more = coloured ? ` ${this.vector(0, 1).join(' ')}` : this.pick(['', '', ' 1.0']);
        this.lines.push(`v ${this.numbers(point.toArray())}${more}`);
      }
    if (hasUvs)
      for (let i = 0; i < 3 + this.below(6); i += 1) {
        this.uvs.push([this.between(0, 1), this.between(0, 1)]);
        this.lines.push(`vt ${this.numbers(this.uvs[this.uvs.length - 1])}${this.pick(['', ' 0'])}`);
      }
    if (hasNormals)
      for (let i = 0; i < 2 + this.below(5); i += 1) {
        this.normals.push(new Vector3(this.between(-0.4, 0.4), this.between(-0.4, 0.4), 1).normalize());
        this.lines.push(`vn ${this.numbers(this.normals[this.normals.length - 1].toArray())}`);
      }
    const faces: number[][] = [];
    for (let y = 0; y < high; y += 1)
      for (let x = 0; x < wide; x += 1) {
        const at = firstPoint + y * (wide + 1) + x;
        const ring = [at, at + 1, at + wide + 2, at + wide + 1];
        if (this.chance(0.3)) faces.push([ring[0], ring[1], ring[2]], [ring[0], ring[2], ring[3]]);
        else faces.push(ring);
      }
    let look: Look | null = null;
    for (const [i, face] of faces.entries()) {
      if (i === 0 || this.chance(0.3)) {
        look = this.pick(looks);
        this.lines.push(`usemtl ${look.name}`);
      }
      if (this.chance(0.1)) this.lines.push(this.pick(['s 1', 's off', 'g a b c', '# wet']));
      const corners = face.map((point) => ({
        point,
        uv: hasUvs ? firstUv + this.below(this.uvs.length - firstUv) : -1,
        normal: hasNormals ? firstNormal + this.below(this.normals.length - firstNormal) : -1,
      }));
      this.lines.push(...this.faceLines(corners));
      addFace(
        paintOf(this.soup, (look as Look).colour),
        corners.map(
          ({ point, uv, normal }): Corner => ({
            place: this.points[point],
            uv: uv >= 0 && look?.image ? laid(this.uvs[uv], look) : null,
            normal: normal >= 0 ? this.normals[normal] : null,
          }),
        ),
      );
    }
  }

  private faceLines(corners: readonly { point: number; uv: number; normal: number }[]): string[] {
    const backwards = this.chance(0.25);
    const told = (index: number, count: number) => (backwards ? index - count : index + 1);
    const words = corners.map(({ point, uv, normal }) => {
      const [v, vt, vn] = [
        told(point, this.points.length),
        uv >= 0 ? told(uv, this.uvs.length) : '',
        normal >= 0 ? told(normal, this.normals.length) : '',
      ];
      if (vn !== '') return `${v}/${vt}/${vn}`;
      return vt !== '' ? `${v}/${vt}` : `${v}`;
    });
    if (this.chance(0.1)) return [`f ${words.slice(0, 2).join(' ')} \\`, `  ${words.slice(2).join(' ')}`];
    return [`f ${words.join(this.pick([' ', '  ']))}${this.pick(['', ' '])}`];
  }
}

/** Options before an image: scaled, then moved, from the lower left; told from the upper left. */
function laid([u, v]: readonly [number, number], { scale, move }: Look): [number, number] {
  return [u * scale[0] + move[0], 1 - (v * scale[1] + move[1])];
}
