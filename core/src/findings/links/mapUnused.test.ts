import { describe, expect, it } from 'vitest';
import { testMaterial } from '../../test/assets.ts';
import { type Case, look, type Paint } from '../../test/sets.ts';
import { findFindings } from '../checks.ts';

describe('images that nothing reads', () => {
  const unused = (of: Partial<Case>) => {
    const materials = of.materials ?? [testMaterial('Hull', { baseColor: 'hull_color.png' })];
    return look({ materials, paths: ['hull_color.png', 'photo.png'], ...of }).findings.filter(
      ({ code }) => code === 'map.unused',
    );
  };

  it('are a note, by name or by number', () => {
    expect(unused({})).toEqual([
      {
        code: 'map.unused',
        step: 'links',
        severity: 'note',
        key: 'map.unused',
        title: 'Images that nothing reads',
        subject: 'thing',
        message: 'No slot reads photo.png.',
        evidence: ['photo.png'],
        mend: null,
        safe: false,
        mendLabel: '',
        target: { image: 'photo.png' },
      },
    ]);
    const many = Array.from({ length: 23 }, (_, i) => `photo${String(i).padStart(2, '0')}.png`);
    const [finding] = unused({ paths: ['hull_color.png', ...many] });
    expect([finding.message, finding.evidence.length, finding.evidence[20]]).toEqual([
      'No slot reads 23 images, such as photo00.png.',
      21,
      'and 3 more',
    ]);
  });

  it('are a warning where they stand among maps that are read and one of the usual channels is not', () => {
    const hull = { baseColor: 'hull_color.png', normal: 'hull_normal.png', roughness: 'hull_rough.png' };
    const among = (channels: Record<string, string>, ...more: string[]) =>
      unused({
        materials: [testMaterial('Hull', channels)],
        paths: [...Object.values(channels), ...more],
      }).map(({ severity, key, evidence }) => [severity, key, ...evidence]);
    expect(among(hull, 'hull_zork.png')).toEqual([['warning', 'map.unused:unnamed', 'hull_zork.png']]);
    // Helpers are known, other things are other sets, and a whole set lacks nothing.
    expect(among(hull, 'hull_curvature.png')).toEqual([['note', 'map.unused', 'hull_curvature.png']]);
    expect(among(hull, 'mast_zork.png')).toEqual([['note', 'map.unused', 'mast_zork.png']]);
    expect(among({ ...hull, metalness: 'hull_metal.png' }, 'hull_zork.png')).toEqual([
      ['note', 'map.unused', 'hull_zork.png'],
    ]);
    expect(among({ baseColor: 'hull_color.png' }, 'hull_zork.png')[0][0]).toBe('note');
  });

  it('are a warning where they look like maps beside colours alone, and are of one size', () => {
    const greys: Paint = (x, y) => Array(3).fill((x * 3 + y) & 255);
    const vectors: Paint = (x, y) => [128 + ((x * 13) % 40) - 20, 128 + ((y * 17) % 40) - 20, 250];
    const hues: Paint = (x, y) => [200 - x, 90 + y, 40];
    const told = (
      { path = 'x/9.png', paint = greys, ...maps }: { path?: string; paint?: Paint; roughness?: string },
      more: Partial<Case> = {},
    ) => {
      const hull = { baseColor: 'x/1.png', ...maps };
      return unused({
        materials: [testMaterial('Hull', hull)],
        paths: [...Object.values(hull), path],
        paints: { 'x/1.png': hues, 'x/2.png': greys, [path]: paint },
        ...more,
      }).map(({ severity, key }) => `${severity} ${key}`);
    };
    const nameless = ['warning map.unused:nameless'];
    expect(told({})).toEqual(nameless);
    expect(told({ paint: () => [90, 90, 90] })).toEqual(['note map.unused']);
    expect(told({ paint: hues })).toEqual(['note map.unused']);
    expect(told({ path: 'y/9.png' })).toEqual(nameless);
    expect(told({ path: 'x/9_curvature.png' })).toEqual(['note map.unused']);
    expect(told({ roughness: 'x/2.png' })).toEqual(['note map.unused']);
    expect(told({ paint: vectors }, { source: { modelsAtHome: 2 } })).toEqual(['note map.unused']);
    expect(told({}, { source: { facesPerMaterial: {} } })).toEqual(['note map.unused']);
    const materials = [testMaterial('Hull', { baseColor: 'x/1.png' })];
    const of = look({
      materials,
      paths: ['x/1.png', 'x/9.png'],
      paints: { 'x/1.png': hues, 'x/9.png': greys },
    });
    const larger = of.files.map((file) =>
      file.info && file.path === 'x/9.png' ? { ...file, info: { ...file.info, width: 640 } } : file,
    );
    const keys = findFindings(of.source, of.state, larger, of.known).map(({ key }) => key);
    expect(keys).toContain('map.unused');
  });

  it('are a warning where a material with faces waits for some, unless other models lie beside', () => {
    const materials = [testMaterial('Hull', { baseColor: 'hull_color.png' }), testMaterial('Sail')];
    // More sets than a question about the sail has room for.
    const things = ['tarp', 'rope', 'buoy', 'cleat', 'winch', 'davit', 'crane', 'stair', 'lamp', 'barrel'];
    const paths = [
      'hull_color.png',
      ...things.flatMap((name) => [`${name}_color.png`, `${name}_normal.png`]),
    ];
    const likely = (more: Case['source']) =>
      unused({ materials, paths, source: { facesPerMaterial: { Hull: 4, Sail: 4 }, ...more } }).filter(
        ({ key }) => key === 'map.unused:likely',
      );
    const [finding] = likely({});
    expect(finding).toMatchObject({ severity: 'warning', title: 'Maps that went nowhere' });
    expect(finding.message).toMatch(/, though materials without any image are there\.$/);
    expect(likely({ modelsAtHome: 2 })).toEqual([]);
    expect(likely({ facesPerMaterial: { Hull: 4 } })).toEqual([]);
  });
});
