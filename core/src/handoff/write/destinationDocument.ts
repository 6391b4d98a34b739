import type { Destination } from '../../destinations/profile.ts';
import { createNamer } from '../../parcel/names.ts';
import { type SceneDocument, Y_UP, Z_UP } from '../../scene/document.ts';
import {
  type ChannelName,
  colourValue,
  createMapUse,
  createMaterial,
  type Material,
  type Rgb,
  sayColours,
  saysMore,
  scalarValue,
  showsColours,
  unitValue,
  VECTOR_CHANNELS,
} from '../../scene/material.ts';
import { usedSlots } from '../../scene/materialForAll.ts';
import { reorient } from '../../scene/reorient.ts';
import { toTriangles } from '../../scene/triangulate.ts';
import { writtenHeight } from '../plan/heights.ts';
import type { HandoffPlan, PlannedMaterial } from '../plan/plan.ts';
import type { PlannedImage } from '../plan/planImage.ts';

/** One channel that an output image feeds. */
export interface Feed {
  channel: ChannelName;
  component: 'rgb' | 'r' | 'g' | 'b' | 'a';
  /** The stored number is 1 - the channel's. */
  invert: boolean;
}

/** Which channels of a written material an output image feeds, and by which component. */
export function feedsOf({ map: { components, alpha }, components: planned }: PlannedImage): Feed[] {
  const recipes = [...components, ...(planned.length > components.length && alpha ? [alpha] : [])];
  const feeds: Feed[] = [];
  recipes.forEach(({ channel, as, part, invert = false }, i) => {
    const target = as ?? channel;
    if (
      planned[i].from === 'constant' &&
      !recipes.some((recipe, k) => recipe.channel === channel && planned[k].from === 'image')
    )
      return;
    if (feeds.some((feed) => feed.channel === target)) return;
    const whole = VECTOR_CHANNELS.has(target) && part === 0;
    feeds.push({ channel: target, component: whole ? 'rgb' : (['r', 'g', 'b', 'a'] as const)[i], invert });
  });
  return feeds;
}

/** Path of an image as the written model names it, with `<UDIM>` for a number of tiles. */
export function pathInPackage({ folder, pattern }: Pick<PlannedImage, 'folder' | 'pattern'>): string {
  return folder === '' ? pattern : `${folder}/${pattern}`;
}

/**
 * The document with the destination's axes, unit, polygons and materials, whose maps are the planned images.
 */
export function destinationDocument(document: SceneDocument, plan: HandoffPlan): SceneDocument {
  const { destination } = plan;
  const turned = reorient(document, destination.upAxis === 'Z' ? Z_UP : Y_UP, destination.metresPerUnit);
  const factor = document.metresPerUnit / destination.metresPerUnit;
  const byKey = new Map(plan.materials.map((material) => [material.key, material]));
  const materials = document.materials.map((material) => {
    const planned = byKey.get(material.key);
    return planned
      ? { ...writtenMaterial(planned, destination, factor), key: material.key }
      : { ...createMaterial(material.name, 'metalRough'), key: material.key };
  });
  const paths = [
    ...new Set(
      materials.flatMap((material) =>
        Object.values(material.channels).flatMap(({ map }) => (map ? [map.image] : [])),
      ),
    ),
  ];
  return {
    ...turned,
    // A mesh without a face shows nothing; programs take its points for corners of triangles, or for its size.
    nodes: turned.nodes.map((node) =>
      node.mesh >= 0 && turned.meshes[node.mesh].faceCounts.length === 0
        ? { ...node, kind: 'group' as const, mesh: -1, materials: [], skin: -1 }
        : node,
    ),
    meshes: destination.triangulate ? turned.meshes.map(toTriangles) : turned.meshes,
    materials,
    images: paths.map((path) => ({ key: path, written: path, relative: path, embedded: null })),
  };
}

/**
 * Every part gets materials of its own, named after it, so that each can be changed alone. Tells their names
 * by the key of the first.
 */
export function withOwnMaterials(document: SceneDocument): {
  document: SceneDocument;
  copies: Map<string, string[]>;
} {
  const materials: Material[] = [];
  const copies = new Map<string, string[]>();
  const named = createNamer();
  const nodes = document.nodes.map((node) => {
    if (node.mesh < 0) return node;
    const used = new Set(usedSlots(node, document));
    const slotMaterials = node.materials.map((index, slot) => {
      const material = document.materials[index];
      if (!material || !used.has(slot)) return -1;
      const name = named(`${node.name}_${material.name}`);
      copies.set(material.key, [...(copies.get(material.key) ?? []), name]);
      return materials.push({ ...material, name, key: name }) - 1;
    });
    return { ...node, materials: slotMaterials };
  });
  return { document: { ...document, nodes, materials }, copies };
}

/** A material as it is written: channels of the destination's shading model with the planned images. */
export function writtenMaterial(
  { name, inputs, source, images }: PlannedMaterial,
  destination: Destination,
  lengthFactor: number,
): Material {
  const material = createMaterial(name, destination.writeAs ?? destination.workflow);
  Object.assign(material, {
    alphaMode: source.alphaMode,
    alphaCutoff: source.alphaCutoff,
    doubleSided: source.doubleSided,
    exponent: source.exponent,
  });

  const origin = { from: 'file' as const, detail: destination.id };
  for (const image of Object.values(images)) {
    if (!image) continue;
    for (const { channel, component, invert } of feedsOf(image)) {
      const input = inputs[channel];
      const { uvSet, transform, wrap, filter } = image.use;
      const map = createMapUse(pathInPackage(image), channel, {
        component,
        invert,
        space: image.map.space,
        uvSet,
        transform,
        wrap,
        ...(filter ? { filter } : {}),
        normalY: channel === 'normal' ? destination.normalY : 'Y+',
      });
      const moves = channel === 'height' || channel === 'bump';
      if (moves && input?.map) {
        const { amount, mid } = writtenHeight(
          input,
          channel === 'height' ? destination : { ...destination, heightMid: null },
        );
        // Bump has no unit; heights are lengths.
        material.channels[channel] = {
          value: amount * (channel === 'height' ? lengthFactor : 1),
          map: { ...map, offset: mid === 0 ? 0 : -mid },
          source: origin,
        };
      } else
        material.channels[channel] = {
          value: VECTOR_CHANNELS.has(channel) ? (input?.value ?? unitValue(channel)) : 1,
          map,
          source: origin,
        };
    }
  }
  for (const [name_, input] of Object.entries(inputs)) {
    const channel = name_ as ChannelName;
    // The value beside an image that has no place is that image's factor, and nothing by itself.
    if (
      material.channels[channel] ||
      !input ||
      input.map ||
      channel === 'normal' ||
      skips(channel, material, destination)
    )
      continue;
    if (!saysMore(channel, input.value) && !isAlwaysSaid(channel, material)) continue;
    material.channels[channel] = { value: input.value, map: null, source: origin };
  }
  // A classic material that names no highlight has none; spec/gloss would take one for granted.
  if (
    material.workflow === 'specGloss' &&
    source.workflow === 'legacy' &&
    !inputs.specularColor &&
    !inputs.specular
  )
    material.channels.specularColor = { value: [0, 0, 0], map: null, source: origin };
  setValuesUnderOtherNames(material, inputs, destination);
  if (material.workflow === 'legacy' && destination.workflow === 'metalRough') weighTint(material);
  // MTL has one word for the colour of a highlight and its strength.
  const { specular } = material.channels;
  if (
    destination.format === 'obj' &&
    material.workflow === 'legacy' &&
    specular &&
    !material.channels.specularColor
  ) {
    material.channels.specularColor = { ...specular, value: colourValue(specular.value) };
    delete material.channels.specular;
  }
  sayColours(material, showsColours(source));
  return material;
}

/**
 * Where leaving a value out says something else: white highlights, and no gloss at all, are usual beside
 * metalness alone.
 */
function isAlwaysSaid(channel: ChannelName, { workflow }: Material): boolean {
  if (channel === 'specularColor') return workflow !== 'metalRough';
  if (channel === 'glossiness') return workflow === 'specGloss';
  return channel === 'baseColor' || channel === 'roughness';
}

/** What metal/rough reflects is one colour to classic readers: its tint as strong as its weight. */
function weighTint({ channels }: Material): void {
  const { specularColor, specular } = channels;
  if (!specularColor || specularColor.map) return;
  if (!saysMore('specularColor', specularColor.value)) delete channels.specularColor;
  else if (specular && !specular.map) {
    const weight = scalarValue(specular.value);
    const tint = colourValue(specularColor.value).map((component) => component * weight) as Rgb;
    channels.specularColor = { ...specularColor, value: tint };
    delete channels.specular;
  }
}

/**
 * What a receiver takes for another channel goes out as a value where there is no image: gloss as the
 * strength of a highlight.
 */
function setValuesUnderOtherNames(
  { channels }: Material,
  inputs: PlannedMaterial['inputs'],
  { maps, id }: Destination,
): void {
  for (const { channel, as, invert } of maps.flatMap(({ components }) => components)) {
    const input = inputs[channel];
    if (!as || channels[as]?.map || !input || VECTOR_CHANNELS.has(as)) continue;
    const value = scalarValue(input.value);
    channels[as] = { value: invert ? 1 - value : value, map: null, source: { from: 'file', detail: id } };
  }
}

/** Roughness and glossiness say the same, once; a height or bump without its map says nothing. */
function skips(channel: ChannelName, { channels }: Material, { workflow }: Destination): boolean {
  if (channel === 'height' || channel === 'bump' || channel === 'occlusion') return true;
  if (channel === 'glossiness') return channels.roughness !== undefined || workflow === 'metalRough';
  return channel === 'roughness' && channels.glossiness !== undefined;
}
