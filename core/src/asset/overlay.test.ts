import { describe, expect, it } from 'vitest';
import { overlayFiles } from './overlay.ts';

const file = (path: string, sha256 = path) => ({ path, sha256 });
const isModel = (path: string) => /\.(obj|fbx)$/.test(path);
const old = [
  file('lantern/lantern.obj', 'm1'),
  file('lantern/tex/brass.png', 'b1'),
  file('lantern/tex/iron.png', 'i1'),
];

describe('a newer delivery', () => {
  it('replaces by path and by the only equal name, and keeps what was not delivered', () => {
    const { files, ...rest } = overlayFiles(
      old,
      [file('new/lantern.obj', 'm2'), file('new/tex/Brass.png', 'b2')],
      'lantern/lantern.obj',
      isModel,
    );
    expect(rest).toEqual({
      replaced: ['lantern/lantern.obj', 'lantern/tex/brass.png'],
      added: [],
      unchanged: 0,
      model: 'lantern/lantern.obj',
    });
    expect([...files].map(([path, { sha256 }]) => `${path} ${sha256}`)).toEqual([
      'lantern/lantern.obj m2',
      'lantern/tex/brass.png b2',
      'lantern/tex/iron.png i1',
    ]);
  });

  it('puts new files where the moved folders suggest', () => {
    const { added } = overlayFiles(
      old,
      [file('v2/tex/brass.png', 'b2'), file('v2/tex/glass.png')],
      'lantern/lantern.obj',
      isModel,
    );
    expect(added).toEqual(['lantern/tex/glass.png']);
  });

  it('moves new files up to the top where the others went there', () => {
    const { added } = overlayFiles(
      [file('lantern.obj'), file('brass.png')],
      [file('v2/brass.png', 'b2'), file('v2/glass.png')],
      'lantern.obj',
      isModel,
    );
    expect(added).toEqual(['glass.png']);
  });

  it('leaves a new file where it came when another lies where the others moved', () => {
    // Two lids are there already, so the delivered one replaces neither.
    const { added, replaced } = overlayFiles(
      [...old, file('lantern/tex/lid.png'), file('lantern/old/lid.png')],
      [file('v2/tex/brass.png', 'b2'), file('v2/tex/lid.png', 'l2')],
      'lantern/lantern.obj',
      isModel,
    );
    expect([added, replaced]).toEqual([['v2/tex/lid.png'], ['lantern/tex/brass.png']]);
  });

  it('takes a single model of the same type for the model, whatever its name, and one of another type as the new model', () => {
    expect(overlayFiles(old, [file('lantern_v002.obj', 'm2')], 'lantern/lantern.obj', isModel)).toMatchObject(
      {
        replaced: ['lantern/lantern.obj'],
        model: 'lantern/lantern.obj',
      },
    );
    expect(overlayFiles(old, [file('lantern.fbx', 'f1')], 'lantern/lantern.obj', isModel)).toMatchObject({
      added: ['lantern.fbx'],
      model: 'lantern.fbx',
    });
  });

  it('takes the only model of a delivery for the model beside images that are new', () => {
    const { files, model } = overlayFiles(
      old,
      [file('lantern_v002.obj', 'm2'), file('rust.png')],
      'lantern/lantern.obj',
      isModel,
    );
    expect(model).toBe('lantern/lantern.obj');
    expect(files.get(model)?.sha256).toBe('m2');
  });

  it('counts what is the same already', () => {
    expect(overlayFiles(old, [file('tex/iron.png', 'i1')], 'lantern/lantern.obj', isModel)).toMatchObject({
      unchanged: 1,
      replaced: [],
      added: [],
    });
  });

  it('does not guess between two of one name', () => {
    const two = [...old, file('lantern/old/brass.png', 'b0')];
    expect(overlayFiles(two, [file('brass.png', 'b2')], 'lantern/lantern.obj', isModel)).toMatchObject({
      replaced: [],
      added: ['brass.png'],
    });
  });

  it('takes the one of the asset’s own before those that came with joined models', () => {
    const joined = [
      ...old,
      file('lantern/joined/post/brass.png', 'p1'),
      file('lantern/joined/hook/brass.png', 'h1'),
    ];
    expect(overlayFiles(joined, [file('v2/brass.png', 'b2')], 'lantern/lantern.obj', isModel)).toMatchObject({
      replaced: ['lantern/tex/brass.png'],
      added: [],
    });
  });
});
