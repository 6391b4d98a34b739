/** Nine significant digits: more than a 32-bit float holds. */
export function numberText(value: number): string {
  if (Number.isInteger(value)) return String(value);
  return String(Number(value.toPrecision(9)));
}

/** Names end at the line's end, so line ends inside them become blanks; a leading blank would be lost. */
export function oneLine(name: string): string {
  return (
    name
      .replace(/[\r\n]+/g, ' ')
      .replace(/\\$/, '')
      .trim() || 'unnamed'
  );
}
