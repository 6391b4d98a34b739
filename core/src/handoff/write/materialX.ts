import type { ChannelName, ColourSpace, Rgb } from '../../scene/material.ts';
import type { Sheet, SheetChannel, SheetMap, SheetMaterial } from './sheet.ts';

/** An input of the surface, with its MaterialX type. */
interface Place {
  input: string;
  type: 'color3' | 'float';
}

/** Inputs of the OpenPBR surface by channel. */
const INPUTS: Partial<Record<ChannelName, Place>> = {
  baseColor: { input: 'base_color', type: 'color3' },
  metalness: { input: 'base_metalness', type: 'float' },
  roughness: { input: 'specular_roughness', type: 'float' },
  glossiness: { input: 'specular_roughness', type: 'float' },
  specular: { input: 'specular_weight', type: 'float' },
  specularColor: { input: 'specular_color', type: 'color3' },
  ior: { input: 'specular_ior', type: 'float' },
  emission: { input: 'emission_color', type: 'color3' },
  opacity: { input: 'geometry_opacity', type: 'float' },
  transmission: { input: 'transmission_weight', type: 'float' },
  coat: { input: 'coat_weight', type: 'float' },
  coatRoughness: { input: 'coat_roughness', type: 'float' },
  sheenColor: { input: 'fuzz_color', type: 'color3' },
  subsurface: { input: 'subsurface_color', type: 'color3' },
};

/** Names of spaces in MaterialX's own colour management. */
const SPACES: Partial<Record<ColourSpace, string>> = {
  srgb_rec709_scene: 'srgb_texture',
  g22_rec709_scene: 'g22_rec709',
  g18_rec709_scene: 'g18_rec709',
  lin_rec709_scene: 'lin_rec709',
  lin_ap1_scene: 'acescg',
  g22_ap1_scene: 'g22_ap1',
  lin_adobergb_scene: 'lin_adobergb',
  srgb_p3d65_scene: 'srgb_displayp3',
  lin_p3d65_scene: 'lin_displayp3',
};

/**
 * The materials as a MaterialX 1.39 document with OpenPBR surfaces. Values multiply their maps; glossiness
 * and inverted components are turned; normals go through a tangent-space normal map, whose green is turned
 * where it points down.
 */
export function materialXDocument(sheet: Sheet): string {
  const taken = new Set<string>();
  const bodies = sheet.materials.map((material) => materialXMaterial(material, sheet, namer(taken)));
  return `<?xml version="1.0"?>\n<materialx version="1.39" colorspace="lin_rec709">\n${bodies.join('\n')}\n</materialx>\n`;
}

/** Names of a document are unique, and letters, digits and `_` alone. */
function namer(taken: Set<string>): (required: string) => string {
  return (expected) => {
    const clean = expected.replace(/\W+/g, '_').replace(/^(\d)/, '_$1');
    let name = clean;
    for (let i = 2; taken.has(name); i += 1) name = `${clean}_${i}`;
    taken.add(name);
    return name;
  };
}

/** The nodes of one material. */
class Network {
  readonly nodes: string[] = [];

  constructor(private readonly name: (required: string) => string) {}

  add(required: string, kind: string, type: string, inputs: readonly string[]): string {
    const nodeName = this.name(required);
    this.nodes.push(
      `  <${kind} name="${nodeName}" type="${type}">\n${inputs.map((line) => `    ${line}\n`).join('')}  </${kind}>`,
    );
    return nodeName;
  }

  /** `node` times a number or colour; the node itself where that changes nothing. */
  times(required: string, type: 'color3' | 'float', node: string, factor: number | Rgb): string {
    if (isOne(factor)) return node;
    return this.add(required, 'multiply', type, [
      from('in1', type, node),
      value('in2', type, type === 'color3' ? asRgb(factor) : factor),
    ]);
  }

  /** 1 - `node`. */
  turned(required: string, node: string): string {
    return this.add(required, 'invert', 'float', [from('in', 'float', node), value('amount', 'float', 1)]);
  }

  /** x, 1 - y, z: multiplied by (1, -1, 1), then (0, 1, 0) added. */
  turnedGreen(base: string, read: string): string {
    const times = this.add(`${base}_normal_times`, 'multiply', 'vector3', [
      from('in1', 'vector3', read),
      value('in2', 'vector3', [1, -1, 1]),
    ]);
    return this.add(`${base}_normal_turned`, 'add', 'vector3', [
      from('in1', 'vector3', times),
      value('in2', 'vector3', [0, 1, 0]),
    ]);
  }
}

function value(input: string, type: string, number: number | Rgb): string {
  return `<input name="${input}" type="${type}" value="${typeof number === 'number' ? trim(number) : number.map(trim).join(', ')}" />`;
}

function from(input: string, type: string, node: string): string {
  return `<input name="${input}" type="${type}" nodename="${node}" />`;
}

function materialXMaterial(
  material: SheetMaterial,
  sheet: Sheet,
  name: (required: string) => string,
): string {
  const network = new Network(name);
  const inputs = valueInputs(material);
  for (const map of material.maps) {
    for (const feed of map.channels) {
      if (feed.channel === 'normal') inputs.push(normalInput(network, material, map, sheet.normalY));
      else if (INPUTS[feed.channel]?.type === 'color3')
        inputs.push(colourInput(network, material, map, feed));
      else if (INPUTS[feed.channel]) inputs.push(scalarInput(network, material, map, feed));
    }
  }
  const surface = network.add(`${material.name}_surface`, 'open_pbr_surface', 'surfaceshader', inputs);
  network.add(material.name, 'surfacematerial', 'material', [
    from('surfaceshader', 'surfaceshader', surface),
  ]);
  return network.nodes.join('\n');
}

/** Values of channels without a map. */
function valueInputs(material: SheetMaterial): string[] {
  const inputs: string[] = [];
  for (const [name, number] of Object.entries(material.values)) {
    const channel = name as ChannelName;
    const place = INPUTS[channel];
    if (!place || material.mapped.includes(channel)) continue;
    const turned = channel === 'glossiness' && typeof number === 'number' ? 1 - number : number;
    inputs.push(value(place.input, place.type, place.type === 'color3' ? asRgb(turned) : turned));
  }
  for (const [channel, input, full] of WEIGHTS)
    if (isThere(material, channel)) inputs.push(value(input, 'float', full));
  return inputs;
}

function normalInput(
  network: Network,
  { name: base }: SheetMaterial,
  map: SheetMap,
  normalY: Sheet['normalY'],
): string {
  const read = network.add(`${base}_normal_image`, 'image', 'vector3', [fileInput(map)]);
  const turned = normalY === 'Y-' ? network.turnedGreen(base, read) : read;
  return from(
    'geometry_normal',
    'vector3',
    network.add(`${base}_normal`, 'normalmap', 'vector3', [from('in', 'vector3', turned)]),
  );
}

function colourInput(
  network: Network,
  { name: base, values }: SheetMaterial,
  map: SheetMap,
  { channel }: SheetChannel,
): string {
  const wide = map.channels.some(({ component }) => component === 'a');
  let node = network.add(`${base}_${channel}_image`, 'image', wide ? 'color4' : 'color3', [fileInput(map)]);
  if (wide) node = network.add(`${base}_${channel}_rgb`, 'convert', 'color3', [from('in', 'color4', node)]);
  return from(
    (INPUTS[channel] as Place).input,
    'color3',
    network.times(`${base}_${channel}_times`, 'color3', node, values[channel] ?? 1),
  );
}

/**
 * A component of an image, times the value. Where the image is inverted and is gloss, both turns are one or
 * none.
 */
function scalarInput(
  network: Network,
  { name: base, values }: SheetMaterial,
  map: SheetMap,
  { channel, component, inverted }: SheetChannel,
): string {
  const image = (type: string) => network.add(`${base}_${channel}_image`, 'image', type, [fileInput(map)]);
  const wide = component === 'a' ? 'color4' : 'color3';
  const alone = map.channels.length === 1 && component === 'r';
  let node = alone
    ? image('float')
    : network.add(`${base}_${channel}_part`, 'extract', 'float', [
        from('in', wide, image(wide)),
        value('index', 'integer', 'rgba'.indexOf(component)),
      ]);
  const factor = values[channel] ?? 1;
  const gloss = channel === 'glossiness';
  if (isOne(factor)) {
    if (inverted !== gloss) node = network.turned(`${base}_${channel}_turned`, node);
  } else {
    if (inverted) node = network.turned(`${base}_${channel}_turned`, node);
    node = network.times(`${base}_${channel}_times`, 'float', node, factor);
    if (gloss) node = network.turned(`${base}_${channel}_rough`, node);
  }
  return from((INPUTS[channel] as Place).input, 'float', node);
}

function fileInput({ file, space }: SheetMap): string {
  const word = SPACES[space];
  return `<input name="file" type="filename" value="${escapeText(file)}"${word ? ` colorspace="${word}"` : ''} />`;
}

/** What weighs a colour that is 0, and shows nothing of it, where nothing is said. */
const WEIGHTS: readonly [ChannelName, string, number][] = [
  ['emission', 'emission_luminance', 1000],
  ['sheenColor', 'fuzz_weight', 1],
  ['subsurface', 'subsurface_weight', 1],
];

function isThere({ values, mapped }: SheetMaterial, channel: ChannelName): boolean {
  const colour = values[channel];
  return (
    mapped.includes(channel) || (colour !== undefined && asRgb(colour).some((component) => component > 0))
  );
}

function isOne(factor: number | Rgb): boolean {
  return asRgb(factor).every((component) => component === 1);
}

function asRgb(value: number | Rgb): Rgb {
  return typeof value === 'number' ? [value, value, value] : value;
}

function trim(value: number): string {
  return String(Math.round(value * 1e6) / 1e6);
}

function escapeText(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');
}
