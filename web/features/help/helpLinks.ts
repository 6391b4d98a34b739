/**
 * Where a link of a page leads within the help: pages lie beside and above each other as their files do.
 * Others stay as they are.
 */
export function helpHref(href: string, from: string): string {
  const written = /^((?:\.\.?\/)*[\w/.-]*)\.md(#.*)?$/.exec(href);
  if (!written) return href;
  const [, target, anchor = ''] = written;
  const folder = from === '' ? ['guide'] : from.split('/').slice(0, -1);
  for (const step of target.split('/')) {
    if (step === '..') folder.pop();
    else if (step !== '.') folder.push(step);
  }
  const path = folder.join('/');
  return `/help${path === 'guide/README' ? '' : `/${path}`}${anchor}`;
}

/** The anchor of a heading: kinds of findings by their codes, others by their words. */
export function anchorOf(heading: string): string {
  return /^[a-z]+\.[A-Za-z]+$/.test(heading)
    ? heading
    : heading
        .toLowerCase()
        .replaceAll(/[^\p{L}\p{N}]+/gu, '-')
        .replaceAll(/^-|-$/g, '');
}
