import type { AssetState, CanonicalMaterial, Edit, SlotAssignment } from '../asset/asset.ts';
import type { Part } from '../asset/parts.ts';
import type { FindingContext } from '../findings/findingContext.ts';
import { applyRule } from '../links/pathRules.ts';
import { parseWrittenPath } from '../links/writtenPath.ts';
import { defaultComponent, defaultSpace, type Provenance } from '../scene/material.ts';
import { collisionIn } from '../scene/partChange.ts';
import { type Action, UNITS } from './rulebook.ts';
import type { Targets } from './targets.ts';

/** What actions may ask of the world around the asset. */
export interface RuleWorld {
  /** A material by a name on the shelf or by a model file; null where there is none. */
  materialFor(name: string): Promise<CanonicalMaterial | null>;
  /** A folder as rules write it, as the source's paths have it; null where it is not among them. */
  folderFor(written: string): string | null;
}

/** The edits of one action on what a rule is about. Findings are settled elsewhere. */
export async function editsFor(
  action: Action,
  targets: Targets,
  context: FindingContext,
  { origin, world }: { origin: Provenance; world: RuleWorld },
): Promise<Edit[]> {
  const { slots, materials, parts } = targets;
  const keys = materials.map(({ material }) => material.key);
  const partKeys = parts.map(({ part }) => part.key);
  switch (action.do) {
    case 'tag': {
      const other = slots
        .filter(({ map }) => map.space !== action.space || map.spaceFrom === 'unstated')
        .map(({ material, channel }) => ({ material: material.key, channel }));
      return other.length === 0
        ? []
        : [{ kind: 'adjustSlots', slots: other, change: { space: action.space }, origin }];
    }
    case 'normal': {
      const normals = slots
        .filter(({ channel, map }) => channel === 'normal' && map.normalY !== action.normalY)
        .map(({ material, channel }) => ({ material: material.key, channel }));
      return normals.length === 0
        ? []
        : [{ kind: 'adjustSlots', slots: normals, change: { normalY: action.normalY }, origin }];
    }
    case 'link':
      return linkEdits(action, targets, context, { origin, world });
    case 'assign':
      return assignEdits(action, targets, origin);
    case 'set': {
      const wrong = materials.filter(
        ({ material }) =>
          JSON.stringify(material.channels[action.channel]?.value) !== JSON.stringify(action.value),
      );
      const to = wrong.map(({ material }) => ({ material: material.key, channel: action.channel }));
      return to.length === 0 ? [] : [{ kind: 'setValues', slots: to, value: action.value, origin }];
    }
    case 'alpha': {
      const change = {
        ...(action.mode === undefined ? {} : { alphaMode: action.mode }),
        ...(action.cutoff === undefined ? {} : { alphaCutoff: action.cutoff }),
      };
      const wrong = materials.filter(({ material }) =>
        Object.entries(change).some(([field, value]) => material[field as keyof typeof change] !== value),
      );
      return wrong.length === 0
        ? []
        : [{ kind: 'setAlpha', materials: wrong.map(({ material }) => material.key), change, origin }];
    }
    case 'replaceMaterial': {
      const by = keys.length === 0 ? null : await world.materialFor(action.with);
      return by ? [{ kind: 'replaceMaterials', materials: keys, by, origin }] : [];
    }
    case 'renameMaterial': {
      const names = materials
        .map(({ material, groups }) => ({
          material: material.key,
          name: filled(action.to, groups),
          was: material.name,
        }))
        .filter(({ name, was }) => name !== '' && name !== was);
      return names.length === 0
        ? []
        : [
            {
              kind: 'renameMaterials',
              names: names.map(({ material, name }) => ({ material, name })),
              origin,
            },
          ];
    }
    case 'numberMaterial': {
      const numbers = keys
        .map((material, i) => ({ material, number: action.number + i }))
        .filter(({ material, number }) => context.state.numbers?.[material] !== number);
      return numbers.length === 0 ? [] : [{ kind: 'numberMaterials', numbers, origin }];
    }
    case 'renamePart': {
      const names = parts
        .map(({ part, groups }) => ({ part: part.key, name: filled(action.to, groups), was: part.name }))
        .filter(({ name, was }) => name !== '' && name !== was);
      return names.length === 0
        ? []
        : [
            {
              kind: 'editParts',
              change: { do: 'rename', names: names.map(({ part, name }) => ({ part, name })) },
              origin,
            },
          ];
    }
    case 'drop':
      return partKeys.length === 0
        ? []
        : [{ kind: 'editParts', change: { do: 'drop', parts: partKeys }, origin }];
    case 'giveMaterial': {
      const shown = parts.filter(({ part }) => part.polygons > 0);
      const material = context.state.materials.find(
        ({ key, name }) => key === action.material || name === action.material,
      );
      const nodes = shown
        .filter(({ part }) => part.slots.some((key) => key !== material?.key) || part.slots.length === 0)
        .map(({ part }) => part.key);
      return material && nodes.length > 0
        ? [{ kind: 'bindNodes', nodes, material: material.key, origin }]
        : [];
    }
    case 'pivot': {
      const shown = targetsWithShape(targets);
      return shown.length === 0
        ? []
        : [{ kind: 'editParts', change: { do: 'pivot', parts: shown, at: action.at }, origin }];
    }
    case 'collision': {
      const wantedCollision = collisionIn(action);
      const has = ({ collision }: Part) =>
        collision !== null && JSON.stringify(collisionIn(collision)) === JSON.stringify(wantedCollision);
      const shown = parts.filter(({ part }) => part.polygons > 0 && !has(part)).map(({ part }) => part.key);
      return shown.length === 0
        ? []
        : [{ kind: 'editParts', change: { do: 'collision', parts: shown, ...wantedCollision }, origin }];
    }
    case 'axes':
      return axesEdits(action, context.state, origin);
    default:
      return [];
  }
}

/** `$1`, `$2` are the groups of the expression, or what each star matched. */
function filled(to: string, groups: readonly string[]): string {
  return to.replaceAll(/\$(\d)/g, (_, digit: string) => groups[Number(digit) - 1] ?? '').trim();
}

/** Parts that show something themselves, or hold what does where they were named themselves. */
function targetsWithShape({ parts }: Targets): string[] {
  return parts.filter(({ part }) => part.polygons > 0).map(({ part }) => part.key);
}

function linkEdits(
  { from, to }: Extract<Action, { do: 'link' }>,
  { slots }: Targets,
  context: FindingContext,
  { origin, world }: { origin: Provenance; world: RuleWorld },
): Edit[] {
  const folder = world.folderFor(to);
  if (folder === null) return [];
  const used = new Set(slots.map(({ map }) => map.image));
  const open = context.state.images.filter(({ key, status }) => status === 'missing' && used.has(key));
  const rule = { from: parseWrittenPath(from).parts.join('/'), to: folder };
  const links = applyRule(rule, open, context.index).map(({ image, path }) => ({
    image,
    path,
    reason: origin.detail,
  }));
  return links.length === 0 ? [] : [{ kind: 'linkImages', links, origin }];
}

/**
 * What the slots read goes to a channel of the same material; a slot of that channel is read so itself. Where
 * none reads it, a file that is named goes there, unless several of a material are.
 */
function assignEdits(
  action: Extract<Action, { do: 'assign' }>,
  targets: Targets,
  origin: Provenance,
): Edit[] {
  const { channel, component, invert } = action;
  const taken = new Map<string, SlotAssignment>();
  const already = new Set(
    targets.slots.flatMap((slot) => (slot.channel === channel ? [slot.material.key] : [])),
  );
  for (const { material, map, entry } of targets.slots) {
    if (already.has(material.key) || !entry?.resolved || taken.has(material.key)) continue;
    const use = {
      component: component ?? defaultComponent(channel),
      invert: invert ?? false,
      space: defaultSpace(channel),
    };
    const existing = material.channels[channel]?.map;
    if (
      existing?.image === map.image &&
      existing.component === use.component &&
      existing.invert === use.invert
    )
      continue;
    taken.set(material.key, {
      material: material.key,
      channel,
      image: entry.resolved,
      ...use,
      normalY: map.normalY,
    });
  }
  const read = new Set(
    targets.slots.flatMap(({ material, entry }) => (entry?.resolved ? [material.key] : [])),
  );
  const free = targets.files().filter(({ material }) => !read.has(material.key));
  for (const { path, material, normalY } of free)
    if (free.filter((other) => other.material === material).length === 1)
      taken.set(material.key, {
        material: material.key,
        channel,
        image: path,
        component: component ?? defaultComponent(channel),
        invert: invert ?? false,
        space: defaultSpace(channel),
        normalY,
      });
  return [
    ...readingEdits(action, targets, origin),
    ...(taken.size === 0 ? [] : [{ kind: 'assignSlots' as const, assignments: [...taken.values()], origin }]),
  ];
}

/** How slots of a channel read what they read already. */
function readingEdits(
  { channel, component, invert }: Extract<Action, { do: 'assign' }>,
  { slots }: Targets,
  origin: Provenance,
): Edit[] {
  const change = {
    ...(component === undefined ? {} : { component }),
    ...(invert === undefined ? {} : { invert }),
  };
  const other = slots.filter(
    (slot) =>
      slot.channel === channel &&
      (slot.map.component !== (component ?? slot.map.component) ||
        slot.map.invert !== (invert ?? slot.map.invert)),
  );
  return other.length === 0
    ? []
    : [
        {
          kind: 'adjustSlots',
          slots: other.map(({ material }) => ({ material: material.key, channel })),
          change,
          origin,
        },
      ];
}

function axesEdits(
  { up, unit, turn, scale }: Extract<Action, { do: 'axes' }>,
  { intake }: AssetState,
  origin: Provenance,
): Edit[] {
  const choice = {
    ...intake,
    ...(up === undefined ? {} : { up }),
    ...(unit === undefined ? {} : { metresPerUnit: UNITS[unit] }),
    ...(turn === undefined
      ? {}
      : { rotation: typeof turn === 'number' ? ([0, turn, 0] as [number, number, number]) : turn }),
    ...(scale === undefined ? {} : { scale }),
  };
  return JSON.stringify(choice) === JSON.stringify(intake) ? [] : [{ kind: 'setIntake', choice, origin }];
}
