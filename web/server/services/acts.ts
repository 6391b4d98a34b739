const NAMED = 2;

/** What was done in one act: `Linked hull.png to maps/hull.png; Assigned ... and 3 more`. */
export function actInWords(texts: readonly string[]): string {
  const different = [...new Set(texts)];
  const more = different.length - NAMED;
  return `${different.slice(0, NAMED).join('; ')}${more > 0 ? ` and ${more} more` : ''}`;
}
