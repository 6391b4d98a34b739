import type { ChannelName, ColourSpace, Rgb } from '../../scene/material.ts';
import type { Sheet, SheetMap, SheetMaterial } from './sheet.ts';

/** Inputs of the OpenPBR surface by channel, with their MaterialX types. */
const INPUTS: Partial<Record<ChannelName, { input: string; type: 'color3' | 'float' }>> = {
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
 * The materials as a MaterialX 1.39 document with OpenPBR surfaces. Values multiply their maps; glossiness and inverted
 * components are turned; normals go through a tangent-space normal map, whose green is turned where it points down.
 */
export function materialXDocument(sheet: Sheet): string {
  const taken = new Set<string>();
  const bodies = sheet.materials.map((material) => materialXMaterial(material, sheet, namer(taken)));
  return `<?xml version="1.0"?>\n<materialx version="1.39" colorspace="lin_rec709">\n${bodies.join('\n')}\n</materialx>\n`;
}

/** Names of a document are unique, and letters, digits and `_` alone. */
function namer(taken: Set<string>): (wanted: string) => string {
  return (wanted) => {
    const clean = wanted.replace(/\W+/g, '_').replace(/^(\d)/, '_$1');
    let name = clean;
    for (let i = 2; taken.has(name); i += 1) name = `${clean}_${i}`;
    taken.add(name);
    return name;
  };
}

function materialXMaterial(material: SheetMaterial, sheet: Sheet, name: (wanted: string) => string): string {
  const nodes: string[] = [];
  const inputs: string[] = [];
  const base = material.name;
  const add = (wanted: string, kind: string, type: string, lines: string[]): string => {
    const own = name(wanted);
    nodes.push(`  <${kind} name="${own}" type="${type}">\n${lines.map((line) => `    ${line}\n`).join('')}  </${kind}>`);
    return own;
  };
  const value = (input: string, type: string, number: number | Rgb) =>
    `<input name="${input}" type="${type}" value="${typeof number === 'number' ? trim(number) : number.map(trim).join(', ')}" />`;
  const from = (input: string, type: string, node: string) => `<input name="${input}" type="${type}" nodename="${node}" />`;
  for (const [name_, number] of Object.entries(material.values)) {
    const channel = name_ as ChannelName;
    const place = INPUTS[channel];
    if (!place || material.mapped.includes(channel)) continue;
    const turned = channel === 'glossiness' && typeof number === 'number' ? 1 - number : number;
    inputs.push(value(place.input, place.type, place.type === 'color3' && typeof turned === 'number' ? [turned, turned, turned] : turned));
  }
  if (isLit(material)) inputs.push(value('emission_luminance', 'float', 1000));
  for (const map of material.maps) {
    for (const { channel, component, inverted } of map.channels) {
      const image = (type: string) => add(`${base}_${channel}_image`, 'image', type, [fileInput(map)]);
      if (channel === 'normal') {
        const read = image('vector3');
        const turned = sheet.normalY === 'Y-' ? turnGreen(read, base, add, from, value) : read;
        inputs.push(from('geometry_normal', 'vector3', add(`${base}_normal`, 'normalmap', 'vector3', [from('in', 'vector3', turned)])));
        continue;
      }
      const place = INPUTS[channel];
      if (!place) continue;
      const own = material.values[channel];
      if (place.type === 'color3') {
        let node = image(map.channels.some((other) => other.component === 'a') ? 'color4' : 'color3');
        if (map.channels.some((other) => other.component === 'a')) node = add(`${base}_${channel}_rgb`, 'convert', 'color3', [from('in', 'color4', node)]);
        if (own !== undefined && !isWhite(own))
          node = add(`${base}_${channel}_times`, 'multiply', 'color3', [from('in1', 'color3', node), value('in2', 'color3', asRgb(own))]);
        inputs.push(from(place.input, place.type, node));
        continue;
      }
      const wide = component === 'a' ? 'color4' : 'color3';
      const alone = map.channels.length === 1 && component === 'r';
      let node = alone
        ? image('float')
        : add(`${base}_${channel}_part`, 'extract', 'float', [from('in', wide, image(wide)), value('index', 'integer', 'rgba'.indexOf(component))]);
      if (inverted !== (channel === 'glossiness'))
        node = add(`${base}_${channel}_turned`, 'invert', 'float', [from('in', 'float', node), value('amount', 'float', 1)]);
      inputs.push(from(place.input, place.type, node));
    }
  }
  const surface = add(`${base}_surface`, 'open_pbr_surface', 'surfaceshader', inputs);
  add(base, 'surfacematerial', 'material', [from('surfaceshader', 'surfaceshader', surface)]);
  return nodes.join('\n');
}

type Add = (wanted: string, kind: string, type: string, lines: string[]) => string;

/** x, 1 - y, z: multiplied by (1, -1, 1), then (0, 1, 0) added. */
function turnGreen(
  read: string,
  base: string,
  add: Add,
  from: (input: string, type: string, node: string) => string,
  value: (input: string, type: string, number: Rgb) => string,
): string {
  const times = add(`${base}_normal_times`, 'multiply', 'vector3', [from('in1', 'vector3', read), value('in2', 'vector3', [1, -1, 1])]);
  return add(`${base}_normal_turned`, 'add', 'vector3', [from('in1', 'vector3', times), value('in2', 'vector3', [0, 1, 0])]);
}

function fileInput({ file, space }: SheetMap): string {
  const word = SPACES[space];
  return `<input name="file" type="filename" value="${escapeText(file)}"${word ? ` colorspace="${word}"` : ''} />`;
}

function isLit({ values: { emission }, mapped }: SheetMaterial): boolean {
  return mapped.includes('emission') || (emission !== undefined && asRgb(emission).some((part) => part > 0));
}

function isWhite(value: number | Rgb): boolean {
  return asRgb(value).every((part) => part === 1);
}

function asRgb(value: number | Rgb): Rgb {
  return typeof value === 'number' ? [value, value, value] : value;
}

function trim(value: number): string {
  return String(Math.round(value * 1e6) / 1e6);
}

function escapeText(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
