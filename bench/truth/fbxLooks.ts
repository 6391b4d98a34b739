import { type Board, BoardLot, CORNERS, type Laying, laidBy, uvAt } from './boards.ts';
import { fbxText, list } from './fbxText.ts';
import { byte, direction, light, Painting, type Stored, type Wrap } from './painting.ts';
import { bent, type KnownPlaces, type Meets, type Place } from './places.ts';

const SETS = ['map1', 'UVChannel_2'];
const [PLAIN, ALPHA] = [3, 4];

interface Taken {
  id: number;
  painting: Painting;
  set: number;
  laying: Laying | null;
  wrap: [Wrap, Wrap];
}

type Known = (right: number, up: number) => Partial<Meets> | null;

/**
 * Boards of text FBX, written by hand: classic properties with their factors, in the material or in the template of
 * its kind, textures that lie otherwise or are carried inside, a vendor's block for metalness and roughness, colours
 * of points. The same seed gives the same files.
 */
export function fbxLooks(seed: number): KnownPlaces {
  return new Writer(seed).known();
}

class Writer extends BoardLot {
  private readonly files: Record<string, Uint8Array> = {};
  private readonly objects: string[] = [];
  private readonly connections: string[] = [];
  private ids = 100;

  known(): KnownPlaces {
    const places: Place[] = [];
    for (let i = 0; i < 1 + this.below(3); i += 1) {
      const board = this.board(i);
      const painted: [Stored, Stored] | null = this.chance(0.3) ? [this.paint(), this.paint()] : null;
      const [material, known] = this.look(board, painted);
      this.addBoard(board, material, painted);
      places.push(
        ...this.placesOn(board, (right, up) => {
          const parts = known.map((part) => part(right, up));
          return parts.includes(null) ? null : Object.assign({}, ...parts);
        }),
      );
    }
    const text = fbxText(this.objects, this.connections, TEMPLATE);
    this.files['boards.fbx'] = new TextEncoder().encode(text);
    return { files: this.files, model: 'boards.fbx', places };
  }

  private id(): number {
    this.ids += 1 + this.below(4);
    return this.ids;
  }

  private paint(): Stored {
    return [byte(this), byte(this), byte(this), 1];
  }

  private addBoard({ index, runs }: Board, material: number, painted: [Stored, Stored] | null): void {
    const [model, shape] = [this.id(), this.id()];
    const layer = (type: string, name: string, words: string[]) => [
      `${type} {`,
      'Version: 101',
      `Name: "${name}"`,
      'MappingInformationType: "ByPolygonVertex"',
      ...words,
      '}',
    ];
    this.objects.push(
      `Model: ${model}, "Model::Board${index}", "Mesh" {`,
      'Version: 232',
      '}',
      `Geometry: ${shape}, "Geometry::", "Mesh" {`,
      ...list(
        'Vertices',
        CORNERS.flatMap(([right, up]) => [2 * index + right, up, 0]),
      ),
      ...list('PolygonVertexIndex', [0, 1, 2, -4]),
      ...runs.flatMap((run, set) =>
        layer(`LayerElementUV: ${set}`, SETS[set], [
          'ReferenceInformationType: "Direct"',
          ...list(
            'UV',
            CORNERS.flatMap((at) => uvAt(run, ...at)),
          ),
        ]),
      ),
      ...(painted
        ? layer('LayerElementColor: 0', 'paint', [
            'ReferenceInformationType: "IndexToDirect"',
            ...list('Colors', painted.flat()),
            ...list(
              'ColorIndex',
              CORNERS.map(([right]) => right),
            ),
          ])
        : []),
      'LayerElementMaterial: 0 {',
      'MappingInformationType: "AllSame"',
      'ReferenceInformationType: "IndexToDirect"',
      ...list('Materials', [0]),
      '}',
      ...runs.flatMap((_, set) => [
        `Layer: ${set} {`,
        ...[
          'LayerElementUV',
          ...(set === 0 ? ['LayerElementMaterial', ...(painted ? ['LayerElementColor'] : [])] : []),
        ].flatMap((type) => [
          'LayerElement:  {',
          `Type: "${type}"`,
          `TypedIndex: ${type === 'LayerElementUV' ? set : 0}`,
          '}',
        ]),
        '}',
      ]),
      '}',
    );
    this.connections.push(`C: "OO",${model},0`, `C: "OO",${shape},${model}`, `C: "OO",${material},${model}`);
  }

  private taken(stem: string, width: number, make?: () => Stored): Taken {
    const painting = new Painting(this, width, make);
    const [id, video] = [this.id(), this.id()];
    const file = `${stem}_${id}.png`;
    const laying = this.laying(make === undefined);
    const wrap: [Wrap, Wrap] = [
      this.pick(['repeat', 'repeat', 'clamp']),
      this.pick(['repeat', 'repeat', 'clamp']),
    ];
    const set = this.below(2);
    const inside = this.chance(0.2);
    const path = `${this.pick(['C:\\\\old\\\\', '/mnt/quay/', ''])}${file}`;
    if (!inside) this.files[file] = painting.png();
    const vector = (name: string, values: readonly number[]) =>
      `P: "${name}", "Vector", "", "A",${values.join(',')}`;
    this.objects.push(
      `Texture: ${id}, "Texture::Tide${id}", "" {`,
      'Type: "TextureVideoClip"',
      'Properties70:  {',
      ...(set === 0 && this.chance(0.5) ? [] : [`P: "UVSet", "KString", "", "", "${SETS[set]}"`]),
      ...(laying
        ? [
            vector('Translation', [...laying.move, 0]),
            vector('Scaling', [...laying.scale, 1]),
            ...(laying.turn === 0 ? [] : [vector('Rotation', [0, 0, laying.turn])]),
          ]
        : []),
      ...wrap.flatMap((side, k) => (side === 'clamp' ? [`P: "WrapMode${'UV'[k]}", "enum", "", "",1`] : [])),
      '}',
      `FileName: "${path}"`,
      `RelativeFilename: "${file}"`,
      '}',
      `Video: ${video}, "Video::Tide${id}", "Clip" {`,
      `FileName: "${path}"`,
      `RelativeFilename: "${file}"`,
      ...(inside ? ['Content: ,', `"${Buffer.from(painting.png()).toString('base64')}"`] : []),
      '}',
    );
    this.connections.push(`C: "OO",${video},${id}`);
    return { id, painting, set, laying, wrap };
  }

  private look(board: Board, painted: [Stored, Stored] | null): [number, Known[]] {
    const id = this.id();
    const known: Known[] = [];
    const words: string[] = [];
    const link = ({ id: texture }: Taken, property: string) =>
      this.connections.push(`C: "OP",${texture},${id}, "${property}"`);
    const at = (taken: Taken | null, right: number, up: number): Stored | null => {
      if (!taken) return [1, 1, 1, 1];
      const [u, v] = laidBy(taken.laying, uvAt(board.runs[taken.set], right, up));
      return taken.painting.at([u, 1 - v], taken.wrap);
    };
    const modern = this.chance(0.4);
    const named = (property: string) => (modern ? `3q|quay|${property}` : property);

    const base = this.chance(0.6) ? this.taken('hull', this.pick([PLAIN, ALPHA])) : null;
    const tint =
      this.chance(0.4) && base
        ? [1, 1, 1]
        : [this.between(0.1, 1), this.between(0.1, 1), this.between(0.1, 1)];
    const share = !modern && this.chance(0.3) ? this.between(0.4, 1) : 1;
    words.push(colour(modern ? named('base_color') : 'DiffuseColor', tint));
    if (share !== 1) words.push(number('DiffuseFactor', share));
    if (base) link(base, modern ? named('base_color_map') : 'DiffuseColor');
    known.push((right, up) => {
      const stored = at(base, right, up);
      if (!stored) return null;
      // Beside an image colours of points are something else.
      const [from, to] = base
        ? [
            [1, 1, 1],
            [1, 1, 1],
          ]
        : (painted ?? [
            [1, 1, 1],
            [1, 1, 1],
          ]);
      // They are picked on a screen, and mix as light.
      const [one, two] = [from, to].map((paint) => paint.map(light));
      const paint = [0, 1, 2].map((k) => one[k] + (two[k] - one[k]) * right);
      return { base: tint.map((component, k) => component * share * light(stored[k]) * paint[k]) };
    });

    if (this.chance(0.4)) {
      const glow = this.chance(0.6) ? this.taken('glow', PLAIN) : null;
      const shine = [this.between(0.1, 1), this.between(0.1, 1), this.between(0.1, 1)];
      const strength = modern ? 1 : this.pick([1, 1, 0.5]);
      words.push(colour(modern ? named('emission_color') : 'EmissiveColor', shine));
      if (strength !== 1) words.push(number('EmissiveFactor', strength));
      if (glow) link(glow, modern ? named('emission_color_map') : 'EmissiveColor');
      known.push((right, up) => {
        const stored = at(glow, right, up);
        return stored && { emission: shine.map((component, k) => component * strength * light(stored[k])) };
      });
    }
    if (modern) {
      for (const [word, target] of [
        ['roughness', 'roughness'],
        ['metalness', 'metallic'],
      ] as const) {
        const map = this.chance(0.6) ? this.taken(word, PLAIN, () => grey(byte(this))) : null;
        const value = map ? 1 : this.between(0, 1);
        words.push(number(named(word), value));
        if (map) link(map, named(`${word}_map`));
        known.push((right, up) => {
          const stored = at(map, right, up);
          return stored && { [target]: value * stored[0] };
        });
      }
    } else if (this.chance(0.5)) {
      const exponent = this.pick([2, 10, 96, 250, 1000]);
      words.push(number(this.pick(['Shininess', 'ShininessExponent']), exponent));
      known.push(() => ({ metallic: 0, roughness: Math.sqrt(Math.sqrt(2 / (exponent + 2))) }));
    }
    if (this.chance(0.4)) {
      const bumps = this.taken('bumps', PLAIN, () => direction(this));
      link(bumps, modern ? named('normal_map') : 'NormalMap');
      known.push((right, up) => {
        const stored = at(bumps, right, up);
        return stored && { normal: bent(stored, 1) };
      });
    }
    if (!modern && this.chance(0.4)) {
      // Of three kinds: a number, an image of what is seen, an image of what is clear.
      const kind = this.below(3);
      const image =
        kind === 0 ? null : this.taken(kind === 1 ? 'opacity' : 'clear', PLAIN, () => grey(byte(this)));
      if (image) link(image, 'TransparentColor');
      const clear = this.between(0, 1);
      if (!image) words.push(colour('TransparentColor', [1, 1, 1]), number('TransparencyFactor', clear));
      known.push((right, up) => {
        if (!image) return { opacity: 1 - clear };
        const stored = at(image, right, up);
        return stored && { opacity: kind === 1 ? stored[0] : 1 - stored[0] };
      });
    }
    this.objects.push(
      `Material: ${id}, "Material::Paint${board.index}", "" {`,
      'Version: 102',
      `ShadingModel: "${this.pick(['phong', 'lambert', 'unknown'])}"`,
      'Properties70:  {',
      ...words,
      '}',
      '}',
    );
    return [id, known];
  }
}

/** What materials have that they do not say themselves. */
const TEMPLATE = [
  'ObjectType: "Material" {',
  'Count: 1',
  'PropertyTemplate: "FbxSurfacePhong" {',
  'Properties70:  {',
  number('DiffuseFactor', 1),
  number('EmissiveFactor', 1),
  colour('EmissiveColor', [0, 0, 0]),
  colour('SpecularColor', [0, 0, 0]),
  colour('TransparentColor', [0, 0, 0]),
  number('TransparencyFactor', 0),
  '}',
  '}',
  '}',
];

function number(name: string, value: number): string {
  return `P: "${name}", "Number", "", "A",${value}`;
}

function colour(name: string, value: readonly number[]): string {
  return `P: "${name}", "Color", "", "A",${value.join(',')}`;
}

function grey(value: number): Stored {
  return [value, value, value, 1];
}
