import { describe, expect, it } from 'vitest';
import { shareOfDelivery } from './shareOfDelivery.ts';

const isModel = (path: string) => /\.(obj|fbx)$/.test(path);
const share = (delivered: string[], model: string, files: string[] = []) =>
  shareOfDelivery(delivered, { model, files: [model, ...files], isModel });

describe('of a delivery for many, an asset gets', () => {
  it('its model by name, case aside, with all below its folder', () => {
    const delivered = [
      'new/lamp/Lamp.OBJ'.replace('OBJ', 'obj'),
      'new/lamp/tex/glass.png',
      'new/crate/crate.obj',
      'new/crate/oak.png',
    ];
    expect(share(delivered, 'props/lamp.obj')).toEqual(['new/lamp/Lamp.obj', 'new/lamp/tex/glass.png']);
    expect(share(delivered, 'CRATE.obj')).toEqual(['new/crate/crate.obj', 'new/crate/oak.png']);
  });

  it('of a folder that models share, what is called as a file of its own alone', () => {
    const delivered = ['lamp.obj', 'crate.obj', 'tex/oak.png', 'tex/glass.png', 'tex/new.png'];
    expect(share(delivered, 'lamp.obj', ['maps/GLASS.png'])).toEqual(['lamp.obj', 'tex/glass.png']);
    expect(share(delivered, 'barrel.obj', ['maps/oak.png'])).toEqual(['tex/oak.png']);
  });

  it('of several of one name the one whose folders agree, and beside the model before elsewhere', () => {
    const delivered = [
      'a/lamp/lamp.obj',
      'a/lamp/colour.png',
      'b/crate/colour.png',
      'b/crate/crate.obj',
      'old/lamp.obj',
    ];
    expect(share(delivered, 'x/lamp/lamp.obj', ['x/lamp/colour.png'])).toEqual([
      'a/lamp/lamp.obj',
      'a/lamp/colour.png',
    ]);
    expect(share(delivered, 'b/crate/crate.obj', ['b/crate/colour.png'])).toEqual([
      'b/crate/colour.png',
      'b/crate/crate.obj',
    ]);
  });

  it('nothing that is in doubt, and is told so', () => {
    expect(() => share(['a/lamp.obj', 'b/lamp.obj'], 'c/lamp.obj')).toThrow(
      expect.objectContaining({ code: 'delivery.ambiguous' }),
    );
    expect(() => share(['barrel.obj', 'tin.png'], 'lamp.obj', ['oak.png'])).toThrow(
      expect.objectContaining({ code: 'delivery.none' }),
    );
    expect(() => share([], 'lamp.obj')).toThrow(expect.objectContaining({ code: 'delivery.none' }));
  });
});
