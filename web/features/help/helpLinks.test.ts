import { describe, expect, it } from 'vitest';
import { anchorOf, helpHref } from './helpLinks.ts';

describe('links of the help', () => {
  it.each<[string, string, string]>([
    ['01-partly-metal.md', '', '/help/guide/01-partly-metal'],
    ['02-publish-for-review.md', 'guide/01-partly-metal', '/help/guide/02-publish-for-review'],
    ['../rules.md', 'guide/10-a-library', '/help/rules'],
    ['parts.md#cutting', 'rules', '/help/parts#cutting'],
    ['guide/README.md', 'rules', '/help'],
    ['./findings.md', 'rules', '/help/findings'],
    ['https://www.khronos.org/gltf', 'rules', 'https://www.khronos.org/gltf'],
    ['#by-a-script', 'rules', '#by-a-script'],
  ])('%s on the page "%s" leads to %s', (href, from, to) => {
    expect(helpHref(href, from)).toBe(to);
  });

  it('find kinds of findings by their codes, and headings by their words', () => {
    expect(
      ['link.missing', 'surface.heightTooStrong', 'In the page', 'Areas, volumes: what is told'].map(
        anchorOf,
      ),
    ).toEqual(['link.missing', 'surface.heightTooStrong', 'in-the-page', 'areas-volumes-what-is-told']);
  });
});
