import { Matrix4 } from 'three';
import { PIXEL } from './pixel.ts';
import type { Known } from './soup.ts';
import {
  CODES,
  type Instance,
  type Look,
  type Op,
  type Prim,
  SceneMaker,
  type Sheet,
  type Values,
} from './usdScene.ts';
import { soupOfScene } from './usdSoup.ts';

/** What nobody should see. */
const WRONG = [
  'def Mesh "Wrong"',
  '{',
  '    point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]',
  '    int[] faceVertexCounts = [3]',
  '    int[] faceVertexIndices = [0, 1, 2]',
  '}',
];

/** Where motion is looked at, in seconds. */
const MOMENTS = [0, 0.3, 0.5, 0.85];

/** The file that is being written: where its materials are, and the classes that it needs. */
interface Layer {
  looks: string;
  classes: string[];
}

/**
 * A USD stage in text, written by hand and not by our writers: all steps of placing, all ways to lay values over a
 * mesh, subsets, bindings that are handed down, and content that comes from other files, classes and variants. The
 * same seed gives the same files.
 */
export function strangeUsd(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends SceneMaker {
  private readonly files: Record<string, Uint8Array> = {};
  private readonly sublayer: string[] = [];
  private painted: readonly Look[] = [];

  known(): Known {
    const scene = this.scene();
    this.painted = scene.looks;
    const layer: Layer = { looks: '/World/Looks', classes: [] };
    const body = this.written(scene.root, layer, this.looksLines('/World/Looks'));
    const head = [
      'defaultPrim = "World"',
      `metersPerUnit = ${scene.unit}`,
      `upAxis = "${scene.up}"`,
      'doc = """Harrow Quay,\n  two lines"""',
      `timeCodesPerSecond = ${CODES}`,
      ...(this.moving ? ['startTimeCode = 0', `endTimeCode = ${CODES}`] : []),
    ];
    if (this.sublayer.length > 0) {
      head.push('subLayers = [@./under.usda@]');
      this.save('under.usda', ['#usda 1.0', 'over "World"', '{', ...this.sublayer, '}']);
    }
    this.save('stage.usda', [
      '#usda 1.0',
      '(',
      ...head.map((line) => `    ${line}`),
      ')',
      '',
      ...layer.classes,
      ...body,
    ]);
    this.files['tide.png'] = PIXEL;
    const moments = this.moving
      ? MOMENTS.map((second) => ({ second, soup: soupOfScene(scene, second) }))
      : [];
    return { files: this.files, model: 'stage.usda', soup: soupOfScene(scene), moments };
  }

  private save(path: string, lines: readonly string[]): void {
    this.files[path] = new TextEncoder().encode([...lines, ''].join(this.chance(0.2) ? '\r\n' : '\n'));
  }

  private looksLines(looks: string): string[] {
    const lines = this.painted.flatMap((look, i) => {
      const [passed, named] = [this.chance(0.3), this.chance(0.3)];
      return [
        `def Material "Paint${i}"`,
        '{',
        ...(passed ? [`    color3f inputs:tint = (${look.colour.join(', ')})`] : []),
        ...(named && look.set ? [`    string inputs:frame:stPrimvarName = "${look.set}"`] : []),
        `    token outputs:surface.connect = <Surface.outputs:surface>`,
        '    def Shader "Surface"',
        '    {',
        '        uniform token info:id = "UsdPreviewSurface"',
        passed
          ? `        color3f inputs:diffuseColor.connect = <${looks}/Paint${i}.inputs:tint>`
          : `        color3f inputs:diffuseColor = (${look.colour.join(', ')})`,
        ...(look.set ? ['        color3f inputs:emissiveColor.connect = <../Image.outputs:rgb>'] : []),
        '        token outputs:surface',
        '    }',
        ...(look.set ? imageLines(look, named ? `${looks}/Paint${i}` : null) : []),
        '}',
      ];
    });
    return [`def Scope "Looks"`, '{', ...lines.map((line) => `    ${line}`), '}'];
  }

  /** The prim where it stands, with what it needs written elsewhere. */
  private written(prim: Prim, layer: Layer, more: readonly string[] = []): string[] {
    const type = prim.type ? `${prim.type} ` : '';
    const head = (words: string, metadata: readonly string[]) =>
      metadata.length > 0
        ? [`${words} ${type}"${prim.name}" (`, ...metadata.map((line) => `    ${line}`), ')']
        : [`${words} ${type}"${prim.name}"`];
    const block = (lines: readonly string[]) => ['{', ...lines.map((line) => `    ${line}`), '}'];
    const bare = prim.type ? `def ${type}"${prim.name}"` : `def "${prim.name}"`;
    const apart = (root: string, own: Layer = { looks: `/${root}/Looks`, classes: [] }) => {
      // Its own copy of all materials, below its root; what is weaker lies a little and is put right where it is used.
      const lies = this.chance(0.5) && prim.ops.length > 0;
      const content = this.content(lies ? { ...prim, ops: [wrongPlace()] } : prim, own);
      return {
        lines: [...content, ...this.looksLines(own.looks)],
        over: lies ? opLines(prim) : [],
        classes: own.classes,
      };
    };
    switch (prim.comes) {
      case 'reference':
      case 'payload': {
        const { lines, over, classes } = apart('Root');
        const path = `${this.pick(['', 'parts/'])}${prim.name}.usda`;
        const named = this.chance(0.5);
        this.savePart(path, named, [...classes, `def ${type}"Root"`, ...block(lines)]);
        const arc = prim.comes === 'payload' ? 'payload' : 'references';
        const operation = this.pick(['', 'prepend ', 'append ', 'add ']);
        const target = `@./${path}@${named ? '</Root>' : ''}`;
        const list = this.chance(0.5) ? target : `[${target}]`;
        const words = [`${operation}${arc} = ${list}`, ...(this.chance(0.2) ? ['instanceable = true'] : [])];
        return [...head('def', words), ...block(over)];
      }
      case 'chosen from outside': {
        const { lines, over, classes } = apart('Root');
        const path = `${prim.name}.usda`;
        this.savePart(path, true, [
          ...classes,
          `def ${type}"Root" (`,
          ...(this.chance(0.5) ? ['    variants = { string form = "other" }'] : []),
          '    prepend variantSets = "form"',
          ')',
          ...block(variantLines('form', { other: ['def Mesh "Wrong" { }'], right: lines })),
        ]);
        const words = [`references = @${path}@</Root>`, 'variants = {', '    string form = "right"', '}'];
        return [...head('def', words), ...block(over)];
      }
      case 'inherits':
      case 'specializes': {
        const root = `_class_${prim.name}`;
        const { lines, over } = apart(root, { looks: `/${root}/Looks`, classes: layer.classes });
        layer.classes.push(`class "_class_${prim.name}"`, ...block(lines), '');
        return [
          ...head('def', [`${this.pick(['', 'prepend '])}${prim.comes} = </_class_${prim.name}>`]),
          ...block(over),
        ];
      }
      case 'variant': {
        const content = this.content(prim, layer);
        const wrong = ['def Xform "Wrong"', '{', '}'];
        const words = ['variants = { string "form" = "right" }', 'append variantSets = ["form"]'];
        return [
          ...head('def', words),
          ...block([...more, ...variantLines('form', { wrong, right: content })]),
        ];
      }
      case 'sublayer': {
        // Only what hangs on the root itself has a place in the layer below.
        if (prim.depth !== 1) return [bare, ...block(this.content(prim, layer))];
        const lies = this.chance(0.5) && prim.ops.length > 0;
        const content = this.content(lies ? { ...prim, ops: [wrongPlace()] } : prim, layer);
        // What the layer below takes in besides is taken out again above it.
        const wrong = this.chance(0.4);
        if (wrong) this.savePart('wrong.usda', true, ['def "Root"', '{', ...WRONG, '}']);
        this.sublayer.push(
          ...head(
            'def',
            wrong
              ? [
                  this.pick([
                    'references = @wrong.usda@</Root>',
                    'prepend references = [@wrong.usda@</Root>]',
                  ]),
                ]
              : [],
          ),
          ...block(content),
        );
        const taken = wrong
          ? [this.pick(['references = None', 'delete references = @wrong.usda@</Root>'])]
          : [];
        if (!wrong && !lies && this.chance(0.5)) return [];
        const over =
          taken.length > 0
            ? [`over "${prim.name}" (`, ...taken.map((line) => `    ${line}`), ')']
            : [`over "${prim.name}"`];
        return [...over, ...block(lies ? opLines(prim) : [])];
      }
      default:
        return [
          ...head('def', ['customData = { int tide = 3 }']),
          ...block([...more, ...this.content(prim, layer)]),
        ];
    }
  }

  private savePart(path: string, named: boolean, lines: readonly string[]): void {
    // Units and axes of what is taken in count for nothing.
    const words = [
      '    upAxis = "Z"',
      '    metersPerUnit = 0.3',
      ...(named ? [] : ['    defaultPrim = "Root"']),
    ];
    this.save(path, ['#usda 1.0', '(', ...words, ')', ...lines]);
    this.files[path.startsWith('parts/') ? 'parts/tide.png' : 'tide.png'] = PIXEL;
  }

  private content(prim: Prim, layer: Layer): string[] {
    const lines = [...opLines(prim)];
    if (prim.hidden !== '') lines.push(prim.hidden);
    if (prim.paint >= 0) {
      const strong = prim.strong ? ' (\n    bindMaterialAs = "strongerThanDescendants"\n)' : '';
      lines.push(`rel material:binding = <${layer.looks}/Paint${prim.paint}>${strong}`);
    }
    if (prim.collection) {
      const { children, paint } = prim.collection;
      const some = children.map((child) => `<${prim.children[child].name}>`);
      const strength = prim.strong ? ' ( bindMaterialAs = "strongerThanDescendants" )' : '';
      lines.push(
        'uniform token collection:wet:expansionRule = "expandPrims"',
        `rel collection:wet:includes = [${some.join(', ')}]`,
        `rel material:binding:collection:wet = [<.collection:wet>, <${layer.looks}/Paint${paint}>]${strength}`,
      );
    }
    if (prim.sheet) lines.push(...this.sheetLines(prim.sheet, layer.looks));
    const children = prim.children.flatMap((child) => this.written(child, layer));
    if (!prim.instances) return [...lines, ...children];
    return [
      ...lines,
      ...instanceLines(prim.instances, prim.children),
      'def Scope "Prototypes"',
      '{',
      ...children.map((line) => `    ${line}`),
      '}',
    ];
  }

  /** An attribute's value, at times as its only sample in time. */
  private sampled(declared: string, value: string): string[] {
    return this.chance(0.15)
      ? [`${declared}.timeSamples = {`, `    1: ${value},`, '}']
      : [`${declared} = ${value}`];
  }

  private sheetLines(sheet: Sheet, looks: string): string[] {
    const list = (items: readonly number[][]) =>
      `[${items.map((item) => `(${item.join(', ')})`).join(', ')}]`;
    const told = ({ type, way, items, indices }: Values, name: string) =>
      way === 'constant' && this.chance(0.5) && type !== 'normal3f'
        ? [`${type}[] ${name} = ${list(items)} (interpolation = "${way}")`]
        : [
            `${type}[] ${name} = ${list(items)} (\n    interpolation = "${way}"\n)`,
            ...(indices ? [`int[] ${name}:indices = [${indices.join(', ')}]`] : []),
          ];
    const paints = [...new Set(sheet.subsets)].filter((paint) => paint >= 0);
    const marked = [
      'def GeomSubset "Marked"',
      '{',
      '    uniform token elementType = "face"',
      '    uniform token familyName = "pick"',
      `    int[] indices = [${sheet.faces.map((_, face) => face).join(', ')}]`,
      '}',
    ];
    const extra = this.pick(['none', 'none', 'before', 'after']);
    return [
      ...this.sampled('point3f[] points', list(sheet.points.map((point) => point.toArray()))),
      `int[] faceVertexCounts = [${sheet.faces.map((face) => face.length).join(', ')}]`,
      `int[] faceVertexIndices = [${sheet.faces.flat().join(', ')}]`,
      'uniform token subdivisionScheme = "none"',
      ...(sheet.leftHanded ? ['uniform token orientation = "leftHanded"'] : []),
      ...(sheet.holes.length > 0 ? [`int[] holeIndices = [${sheet.holes.join(', ')}]`] : []),
      ...sheet.uvs.flatMap((set) => told(set, `primvars:${set.name}`)),
      ...(sheet.normals ? told(sheet.normals, sheet.normals.indices ? 'primvars:normals' : 'normals') : []),
      ...(extra === 'before' ? marked : []),
      ...paints.flatMap((paint) => [
        `def GeomSubset "Some${paint}"`,
        '{',
        '    uniform token elementType = "face"',
        '    uniform token familyName = "materialBind"',
        `    int[] indices = [${sheet.subsets.flatMap((own, face) => (own === paint ? [face] : [])).join(', ')}]`,
        `    rel material:binding = <${looks}/Paint${paint}>`,
        '}',
      ]),
      ...(extra === 'after' ? marked : []),
    ];
  }
}

function variantLines(set: string, variants: Record<string, readonly string[]>): string[] {
  const inner = Object.entries(variants).flatMap(([name, lines]) => [
    `    "${name}" {`,
    ...lines.map((line) => `        ${line}`),
    '    }',
  ]);
  return [`variantSet "${set}" = {`, ...inner, '}'];
}

function instanceLines(instances: readonly Instance[], children: readonly Prim[]): string[] {
  const list = (items: readonly (readonly number[])[]) =>
    items.map((item) => `(${item.join(', ')})`).join(', ');
  const hidden = instances.flatMap((instance, i) => (instance.hidden ? [i * 10] : []));
  return [
    `rel prototypes = [${children.map(({ name }) => `<Prototypes/${name}>`).join(', ')}]`,
    `int[] protoIndices = [${instances.map(({ child }) => child).join(', ')}]`,
    `point3f[] positions = [${list(instances.map(({ place }) => place))}]`,
    `quath[] orientations = [${list(instances.map(({ turn }) => turn))}]`,
    `float3[] scales = [${list(instances.map(({ scale }) => [scale, scale, scale]))}]`,
    ...(hidden.length > 0
      ? [
          `int64[] ids = [${instances.map((_, i) => i * 10).join(', ')}]`,
          `int64[] invisibleIds = [${hidden.join(', ')}]`,
        ]
      : []),
  ];
}

function wrongPlace(): Op {
  const declared = 'double3 xformOp:translate:wrong = (9, 9, 9)';
  return { name: 'xformOp:translate:wrong', declared, at: () => new Matrix4() };
}

function opLines({ ops, resets }: Pick<Prim, 'ops' | 'resets'>): string[] {
  if (ops.length === 0 && !resets) return [];
  const order = [...(resets ? ['!resetXformStack!'] : []), ...ops.map(({ name }) => name)];
  return [
    ...ops.map(({ declared }) => declared).filter((line) => line !== ''),
    `uniform token[] xformOpOrder = [${order.map((name) => `"${name}"`).join(', ')}]`,
  ];
}

function imageLines({ set, scale, turn, move }: Look, named: string | null): string[] {
  const isLaid = scale[0] !== 1 || move[0] !== 0;
  const reader = ['def Shader "Reader"', '{', '    uniform token info:id = "UsdPrimvarReader_float2"'];
  return [
    ...reader,
    named
      ? `    string inputs:varname.connect = <${named}.inputs:frame:stPrimvarName>`
      : `    string inputs:varname = "${set}"`,
    '    float2 outputs:result',
    '}',
    ...(isLaid
      ? [
          'def Shader "Laid"',
          '{',
          '    uniform token info:id = "UsdTransform2d"',
          '    float2 inputs:in.connect = <../Reader.outputs:result>',
          `    float2 inputs:scale = (${scale.join(', ')})`,
          `    float inputs:rotation = ${turn}`,
          `    float2 inputs:translation = (${move.join(', ')})`,
          '    float2 outputs:result',
          '}',
        ]
      : []),
    'def Shader "Image"',
    '{',
    '    uniform token info:id = "UsdUVTexture"',
    '    asset inputs:file = @tide.png@',
    `    float2 inputs:st.connect = <../${isLaid ? 'Laid' : 'Reader'}.outputs:result>`,
    '    token inputs:wrapS = "repeat"',
    '    token inputs:wrapT = "repeat"',
    '    float3 outputs:rgb',
    '}',
  ].map((line) => `    ${line}`);
}
