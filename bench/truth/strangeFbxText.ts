import { Matrix3, Matrix4, Vector3 } from 'three';
import { FbxMaker, type Moving, SECONDS, type Vec } from './fbxMaker.ts';
import { TICKS } from './fbxText.ts';
import { PIXEL } from './pixel.ts';
import { addFace, type Corner, type Known, paintOf, type Soup } from './soup.ts';

const UNITS = [1, 100, 2.54, 0.1];
const NAMES = ['Post', 'Rail 2', 'Pöller', 'deck', 'a/b'];

interface Look {
  id: number;
  name: string;
  colour: Vec;
  set: string | null;
  scale: [number, number];
  move: [number, number];
}

/** Values of a layer, and which of them the place of a mesh has. */
interface Spread {
  words: string[];
  at(place: { point: number; face: number; corner: number }): number[];
}

interface Geometry {
  id: number;
  points: Vec[];
  faces: number[][];
  normals: Spread | null;
  uvs: Map<string, Spread>;
  slots: number[];
  words: string[];
}

/**
 * An FBX in text, written by hand: layers of every mapping, polygons of several corners, sets of UVs by name, slots
 * of materials by the order of connections, shapes that several parts share, steps of placing by the rule of the
 * format, axes and units of all kinds. The same seed gives the same files.
 */
export function strangeFbxText(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends FbxMaker {
  private readonly looks: Look[] = [];
  private readonly geometries: Geometry[] = [];
  known(): Known {
    for (let i = 0; i < 2 + this.below(3); i += 1) this.addLook(i);
    const unit = this.pick(UNITS);
    for (let i = 0; i < 1 + this.below(3); i += 1) this.geometries.push(this.geometry(100 / unit));
    const { words, matrix } = this.axes();
    const metres = unit / 100;
    const world = matrix.multiply(new Matrix4().makeScale(metres, metres, metres));
    for (let i = 0; i < 1 + this.below(3); i += 1)
      this.addModel(() => world, 0, { depth: 0, unit: 100 / unit });
    const number = (name: string, value: number, type = 'int') =>
      `P: "${name}", "${type}", "${type === 'int' ? 'Integer' : 'Number'}", "",${value}`;
    const settings = [
      'GlobalSettings:  {',
      'Version: 1000',
      'Properties70:  {',
      ...words.map(([name, value]) => number(name, value)),
      number('UnitScaleFactor', unit, 'double'),
      number('OriginalUnitScaleFactor', 1, 'double'),
      '}',
      '}',
    ];
    const version = this.old ? 6100 : 7400;
    const lines = [
      `; FBX ${this.old ? '6.1.0' : '7.4.0'} project file`,
      '; Harrow Quay',
      '',
      'FBXHeaderExtension:  {',
      'FBXHeaderVersion: 1003',
      `FBXVersion: ${version}`,
      '}',
      ...(this.old ? [] : settings),
      'Definitions:  {',
      'Version: 100',
      'Count: 1',
      '}',
      'Objects:  {',
      ...this.objects,
      ...(this.moments.length > 0
        ? [
            `AnimationStack: ${this.stack}, "AnimStack::Tide", "" {`,
            'Properties70:  {',
            `P: "LocalStop", "KTime", "Time", "",${SECONDS[2] * TICKS}`,
            `P: "ReferenceStop", "KTime", "Time", "",${SECONDS[2] * TICKS}`,
            '}',
            '}',
            `AnimationLayer: ${this.layer}, "AnimLayer::Base", "" {`,
            '}',
          ]
        : []),
      ...(this.old ? settings : []),
      '}',
      '; Object connections',
      'Connections:  {',
      ...(this.moments.length > 0 ? [`C: "OO",${this.layer},${this.stack}`] : []),
      ...this.connections,
      '}',
      '',
    ];
    const text = (this.old ? asOld(lines) : lines).join(this.chance(0.3) ? '\r\n' : '\n');
    return {
      files: { 'quay.fbx': new TextEncoder().encode(text), 'tide mark.png': PIXEL },
      model: 'quay.fbx',
      soup: this.soups[0],
      moments: this.moments.map((second, i) => ({ second, soup: this.soups[i + 1] })),
    };
  }

  /** Which axis is up, which looks at the viewer, which goes right: rows of the turn to Y up. */
  private axes(): { words: [string, number][]; matrix: Matrix4 } {
    const [up, front, right] = this.pick([
      [1, 2, 0],
      [2, 1, 0],
      [1, 0, 2],
      [2, 0, 1],
      [0, 1, 2],
    ]);
    const [upSign, frontSign] = [this.pick([1, 1, -1]), this.pick([1, -1])];
    const unitVector = (axis: number, sign: number) =>
      new Vector3(...([0, 1, 2].map((k) => (k === axis ? sign : 0)) as Vec));
    const [y, z] = [unitVector(up, upSign), unitVector(front, frontSign)];
    // Right-handed: what goes right follows from the other two.
    const x = y.clone().cross(z);
    const rightSign = Math.sign(x.toArray()[right]);
    const words: [string, number][] = [
      ['UpAxis', up],
      ['UpAxisSign', upSign],
      ['FrontAxis', front],
      ['FrontAxisSign', frontSign],
      ['CoordAxis', right],
      ['CoordAxisSign', rightSign],
    ];
    return { words, matrix: new Matrix4().makeBasis(x, y, z).transpose() };
  }

  private addLook(index: number): void {
    const laid = this.chance(0.3);
    const look: Look = {
      id: this.id(),
      name: `Paint${index}`,
      colour: [0.1 + 0.1 * index, this.between(0, 1), this.between(0, 1)],
      set: this.chance(0.7) ? this.pick(['map1', 'UVChannel_2', '']) : null,
      scale: laid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      move: laid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
    this.looks.push(look);
    this.objects.push(
      `Material: ${look.id}, "Material::${look.name}", "" {`,
      'Version: 102',
      `ShadingModel: "${this.pick(['phong', 'lambert', 'Phong'])}"`,
      'Properties70:  {',
      `P: "DiffuseColor", "Color", "", "A",${look.colour.join(',')}`,
      ...(look.set === null ? [] : ['P: "EmissiveColor", "Color", "", "A",1,1,1']),
      '}',
      '}',
    );
    if (look.set === null) return;
    const [texture, video] = [this.id(), this.id()];
    this.objects.push(
      `Texture: ${texture}, "Texture::Tide", "" {`,
      'Type: "TextureVideoClip"',
      'Properties70:  {',
      ...(look.set === '' ? [] : [`P: "UVSet", "KString", "", "", "${look.set}"`]),
      ...(laid
        ? [
            `P: "Translation", "Vector", "", "A",${look.move.join(',')},0`,
            `P: "Scaling", "Vector", "", "A",${look.scale.join(',')},1`,
          ]
        : []),
      '}',
      'FileName: "C:\\old\\tide mark.png"',
      'RelativeFilename: "tide mark.png"',
      '}',
      `Video: ${video}, "Video::Tide", "Clip" {`,
      'FileName: "C:\\old\\tide mark.png"',
      'RelativeFilename: "tide mark.png"',
      '}',
    );
    this.connections.push(`C: "OO",${video},${texture}`, `C: "OP",${texture},${look.id}, "EmissiveColor"`);
  }

  private spread(
    { layer, words: [own, ownIndex], name }: { layer: string; words: [string, string]; name: string },
    [points, faces, corners]: number[],
    make: () => number[],
  ): Spread {
    const mapping = this.pick(['ByPolygonVertex', 'ByVertice', 'ByVertex', 'ByPolygon', 'AllSame']);
    const count = { ByPolygonVertex: corners, ByPolygon: faces, AllSame: 1 }[mapping] ?? points;
    const indexed = this.chance(0.6);
    const values = Array.from({ length: indexed ? 1 + this.below(6) : count }, make);
    const index = indexed ? Array.from({ length: count }, () => this.below(values.length)) : null;
    const words = [
      `${layer} {`,
      'Version: 101',
      `Name: "${name}"`,
      `MappingInformationType: "${mapping}"`,
      `ReferenceInformationType: "${indexed ? this.pick(['IndexToDirect', 'Index']) : 'Direct'}"`,
      ...this.list(own, values.flat()),
      ...(index ? this.list(ownIndex, index) : []),
      '}',
    ];
    return {
      words,
      at: ({ point, face, corner }) => {
        const at = { ByPolygonVertex: corner, ByPolygon: face, AllSame: 0 }[mapping] ?? point;
        return values[index ? index[at] : at];
      },
    };
  }

  private geometry(unit: number): Geometry {
    const [wide, high] = [1 + this.below(3), 1 + this.below(3)];
    const points: Vec[] = [];
    for (let y = 0; y <= high; y += 1)
      for (let x = 0; x <= wide; x += 1) points.push([x * unit, y * unit, this.between(-0.2, 0.2) * unit]);
    const faces: number[][] = [];
    for (let y = 0; y < high; y += 1)
      for (let x = 0; x < wide; x += 1) {
        const at = y * (wide + 1) + x;
        const ring = [at, at + 1, at + wide + 2, at + wide + 1];
        if (this.chance(0.3)) faces.push([ring[0], ring[1], ring[2]], [ring[0], ring[2], ring[3]]);
        else faces.push(ring);
      }
    const counts = [points.length, faces.length, faces.flat().length];
    const id = this.id();
    const normals = this.chance(0.5)
      ? this.spread(
          { layer: 'LayerElementNormal: 0', words: ['Normals', 'NormalsIndex'], name: '' },
          counts,
          () => new Vector3(this.between(-0.4, 0.4), this.between(-0.4, 0.4), 1).normalize().toArray(),
        )
      : null;
    const uvs = new Map<string, Spread>();
    for (const [i, name] of this.pick([['map1'], ['map1', 'UVChannel_2'], ['UVChannel_2', 'map1']]).entries())
      uvs.set(
        name,
        this.spread({ layer: `LayerElementUV: ${i}`, words: ['UV', 'UVIndex'], name }, counts, () => [
          this.between(0, 1),
          this.between(0, 1),
        ]),
      );
    const single = this.chance(0.5);
    const slots = single ? faces.map(() => 0) : faces.map(() => this.below(2));
    const ends = faces.flatMap((face) =>
      face.map((point, k) => (k === face.length - 1 ? -point - 1 : point)),
    );
    const layers = [
      ...(normals ? [['LayerElementNormal', 0] as const] : []),
      ['LayerElementMaterial', 0] as const,
      ['LayerElementUV', 0] as const,
    ];
    const layerWords = (list: readonly (readonly [string, number])[], index: number) => [
      `Layer: ${index} {`,
      'Version: 100',
      ...list.flatMap(([type, at]) => ['LayerElement:  {', `Type: "${type}"`, `TypedIndex: ${at}`, '}']),
      '}',
    ];
    const words = [
      `Geometry: ${id}, "Geometry::", "Mesh" {`,
      ...this.list('Vertices', points.flat()),
      ...this.list('PolygonVertexIndex', ends),
      'GeometryVersion: 124',
      ...(normals?.words ?? []),
      ...[...uvs.values()].flatMap((uv) => uv.words),
      'LayerElementMaterial: 0 {',
      'Version: 101',
      'Name: ""',
      `MappingInformationType: "${single ? 'AllSame' : 'ByPolygon'}"`,
      'ReferenceInformationType: "IndexToDirect"',
      ...this.list('Materials', single ? [0] : slots),
      '}',
      ...layerWords(layers, 0),
      ...(uvs.size > 1 ? layerWords([['LayerElementUV', 1]], 1) : []),
      '}',
    ];
    if (!this.old) this.objects.push(...words);
    return { id, points, faces, normals, uvs, slots, words };
  }

  private addModel(above: Moving, parent: number, { depth, unit }: { depth: number; unit: number }): void {
    const id = this.id();
    const geometry = this.chance(0.8) || depth === 0 ? this.pick(this.geometries) : null;
    const { words, local, geometric } = this.placed(unit, id);
    this.objects.push(
      `Model: ${id}, "Model::${this.pick(NAMES)}", "${geometry ? 'Mesh' : 'Null'}" {`,
      'Version: 232',
      'Properties70:  {',
      'P: "RotationActive", "bool", "", "",1',
      'P: "InheritType", "enum", "", "",1',
      ...words,
      '}',
      ...(this.old && geometry ? geometry.words.slice(1, -1) : []),
      'Shading: T',
      'Culling: "CullingOff"',
      '}',
    );
    this.connections.push(`C: "OO",${id},${parent}`);
    const world: Moving = (second) => above(second).clone().multiply(local(second));
    if (geometry) {
      const first = this.below(this.looks.length);
      const step = 1 + this.below(this.looks.length - 1);
      const slots = [this.looks[first], this.looks[(first + step) % this.looks.length]];
      const [shape, ...paints] = [geometry.id, ...slots.map((look) => look.id)].map(
        (from) => `C: "OO",${from},${id}`,
      );
      const shapeLast = this.chance(0.5);
      this.connections.push(...(this.old || shapeLast ? [] : [shape]), ...paints);
      if (!this.old && shapeLast) this.connections.push(shape);
      [null, ...this.moments].forEach((second, i) => {
        this.see(geometry, slots, { world: world(second).multiply(geometric), soup: this.soups[i] });
      });
    }
    if (depth < 3)
      for (let k = 0; k < this.below(3); k += 1) this.addModel(world, id, { depth: depth + 1, unit });
  }

  private see(
    { points, faces, normals, uvs, slots }: Geometry,
    looks: readonly Look[],
    { world, soup }: { world: Matrix4; soup: Soup },
  ): void {
    const turned = new Matrix3().getNormalMatrix(world);
    const mirrored = world.determinant() < 0;
    let corner = 0;
    faces.forEach((face, index) => {
      const look = looks[slots[index]];
      const set = look.set === null ? null : (uvs.get(look.set) ?? [...uvs.values()][0]);
      const corners = face.map((point, k): Corner => {
        const at = { point, face: index, corner: corner + k };
        return {
          place: new Vector3(...points[point]).applyMatrix4(world),
          uv: set ? laid(set.at(at), look) : null,
          normal: normals ? new Vector3(...(normals.at(at) as Vec)).applyMatrix3(turned).normalize() : null,
        };
      });
      corner += face.length;
      addFace(paintOf(soup, look.colour), mirrored ? corners.reverse() : corners);
    });
  }
}

/** The same in version 6.1: objects are called by their names, and properties have a word less. */
function asOld(lines: readonly string[]): string[] {
  const names = new Map([['0', 'Model::Scene']]);
  const named = lines.map((line) =>
    line.replace(/^(\w+): (\d+), "([^"]*)", "/, (_, type: string, id: string, name: string) => {
      names.set(id, `${name} ${id}`);
      return `${type}: "${name} ${id}", "`;
    }),
  );
  return named.map((line) =>
    line
      .replace(/^P: ("[^"]*", "[^"]*"), "[^"]*", /, 'Property: $1, ')
      .replace('Properties70', 'Properties60')
      .replace(/^C: "(\w+)",(\d+),(\d+)/, (_, kind: string, from: string, to: string) => {
        return `Connect: "${kind}", "${names.get(from)}", "${names.get(to)}"`;
      }),
  );
}

/** Scaled, then moved, from the lower left; told from the upper left. */
function laid([u, v]: readonly number[], { scale, move }: Look): [number, number] {
  return [u * scale[0] + move[0], 1 - (v * scale[1] + move[1])];
}
