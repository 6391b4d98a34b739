import type { Edit } from '../../asset/asset.ts';
import type { Part } from '../../asset/parts.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { capped, counted, partFinding } from './partFinding.ts';

/**
 * Parts of one name, or without any: edits, rules and engines go by names. A part of the name of what it
 * hangs on is no fault, since many writers name a mesh as its node; nor are equal names in different places
 * of USD, whose paths tell them apart.
 */
export const partNameDoubled: Check = ({ parts, source }) => {
  const all = parts();
  const groups = new Map<string, Part[]>();
  for (const part of all) {
    if (part.dropped || part.kind === 'bone') continue;
    const name = source.format === 'usd' ? JSON.stringify([part.parent, part.name]) : part.name;
    groups.set(name, [...(groups.get(name) ?? []), part]);
  }
  const free = namesBeside(all.map(({ name }) => name));
  const findings: Finding[] = [];
  for (const group of groups.values()) {
    const members = new Set(group.map(({ key }) => key));
    const [first, ...others] = group.filter(({ parent }) => parent === null || !members.has(parent));
    const again = first?.name === '' ? [first, ...others] : others;
    if (!first || again.length === 0) continue;
    const names = again.map((part) => ({ part: part.key, name: free(first.name || part.kind) }));
    const mend: Edit = {
      kind: 'editParts',
      change: { do: 'rename', names },
      origin: { from: 'evidence', detail: 'names tell parts apart' },
    };
    findings.push(
      partFinding(again[0], {
        code: 'part.nameDoubled',
        severity: 'note',
        title: first.name === '' ? 'No name' : 'Name comes twice',
        message:
          first.name === ''
            ? `${counted(again.length, 'part has', 'parts have')} no name.`
            : `${first.name}: ${counted(group.length, 'part', 'parts')} of this name; what goes by names cannot tell them apart.`,
        evidence: group.slice(0, 20).map(({ key }) => key),
        mend,
        safe: false,
        mendLabel: again.length === 1 ? `Rename to ${names[0].name}` : `Rename ${again.length} of them`,
      }),
    );
  }
  return capped(findings);
};

/** Makes names that none of these is, nor any that it made: `bolt_2`, `bolt_3` and so on. */
function namesBeside(names: readonly string[]): (name: string) => string {
  const taken = new Set(names);
  const last = new Map<string, number>();
  return (name) => {
    let count = (last.get(name) ?? 1) + 1;
    while (taken.has(`${name}_${count}`)) count += 1;
    last.set(name, count);
    taken.add(`${name}_${count}`);
    return `${name}_${count}`;
  };
}
