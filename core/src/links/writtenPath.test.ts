import { describe, expect, it } from 'vitest';
import { parseWrittenPath, writtenName } from './writtenPath.ts';

describe('a path as a model wrote it', () => {
  it.each<[string, string[], boolean, boolean]>([
    ['maps/hull.png', ['maps', 'hull.png'], false, false],
    ['.\\maps\\hull.png', ['maps', 'hull.png'], false, false],
    ['../textures/hull.png', ['textures', 'hull.png'], false, true],
    ['a/../b/hull.png', ['b', 'hull.png'], false, false],
    ['C:\\Art\\Quay\\hull.png', ['Art', 'Quay', 'hull.png'], true, false],
    ['/home/quay/hull.png', ['home', 'quay', 'hull.png'], true, false],
    ['~quay/hull.png', ['hull.png'], true, false],
    ['\\\\server\\share\\hull.png', ['server', 'share', 'hull.png'], true, false],
    ['file:///C:/Art/my%20hull.png', ['Art', 'my hull.png'], true, false],
    ['my%20hull.png', ['my hull.png'], false, false],
    ['100%.png', ['100%.png'], false, false],
    ['100%zz%20.png', ['100%zz%20.png'], false, false],
    ['"maps/hull.png"', ['maps', 'hull.png'], false, false],
    ['  hull.png ', ['hull.png'], false, false],
    ['', [], false, false],
  ])('%j', (written, parts, absolute, climbs) => {
    expect(parseWrittenPath(written)).toMatchObject({ parts, absolute, climbs });
  });

  it('has its name, stem and type, and accents in one form', () => {
    expect(parseWrittenPath('maps/Hull.Color.PNG')).toMatchObject({
      name: 'Hull.Color.PNG',
      stem: 'Hull.Color',
      extension: 'png',
    });
    expect(parseWrittenPath('.hidden')).toMatchObject({ stem: '.hidden', extension: '' });
    expect(parseWrittenPath('Mo\u0308we.png').name).toBe('M\u00f6we.png');
    expect([writtenName('C:\\a\\b.png'), writtenName('a/b.png'), writtenName('b.png')]).toEqual([
      'b.png',
      'b.png',
      'b.png',
    ]);
  });
});
