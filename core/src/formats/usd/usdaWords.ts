import { KinkajouError } from '../../errors.ts';
import { AssetPath } from './layer.ts';

/**
 * The words of a text layer: names, numbers, texts, paths and what stands between them. Faults name file and
 * line.
 */
export class UsdaWords {
  protected at = 0;

  constructor(
    protected readonly text: string,
    private readonly file: string,
  ) {}

  protected asset(): AssetPath {
    this.skip();
    const mark = this.text.startsWith('@@@', this.at) ? '@@@' : '@';
    if (this.text[this.at] !== '@') throw this.fault('an asset path between @ is expected');
    const start = this.at + mark.length;
    const end = this.text.indexOf(mark, start);
    if (end < 0) throw this.fault('an asset path is not closed');
    this.at = end + mark.length;
    return new AssetPath(this.text.slice(start, end).replaceAll('\\@@@', '@@@'));
  }

  protected path(): string {
    this.skip();
    const end = this.text.indexOf('>', this.at);
    if (this.text[this.at] !== '<' || end < 0) throw this.fault('a path between < and > is expected');
    const path = this.text.slice(this.at + 1, end).trim();
    this.at = end + 1;
    return path;
  }

  protected quoted(): string {
    this.skip();
    const quote = this.text[this.at];
    if (quote !== '"' && quote !== "'") throw this.fault('a text between quotes is expected');
    const triple = this.text.startsWith(quote.repeat(3), this.at);
    const mark = triple ? quote.repeat(3) : quote;
    let end = this.at + mark.length;
    let escaped = false;
    for (;;) {
      if (end >= this.text.length) throw this.fault('a text is not closed');
      if (this.text[end] === '\\') {
        escaped = true;
        end += 2;
        continue;
      }
      if (this.text.startsWith(mark, end)) break;
      end += 1;
    }
    const raw = this.text.slice(this.at + mark.length, end);
    this.at = end + mark.length;
    return escaped ? unescaped(raw) : raw;
  }

  protected bool(): boolean {
    const word = this.word();
    if (word === 'true' || word === 'True') return true;
    if (word === 'false' || word === 'False') return false;
    if (word === '') return this.number() !== 0;
    return word === '1';
  }

  protected number(): number {
    this.skip();
    const { text } = this;
    const start = this.at;
    let offset = start;
    let negative = false;
    if (text[offset] === '-' || text[offset] === '+') {
      negative = text[offset] === '-';
      offset += 1;
    }
    let mantissa = 0;
    let digits = 0;
    let decimals = 0;
    let code = text.charCodeAt(offset);
    for (; code >= 48 && code <= 57; offset += 1, code = text.charCodeAt(offset), digits += 1)
      mantissa = mantissa * 10 + code - 48;
    if (code === 46) {
      offset += 1;
      code = text.charCodeAt(offset);
      for (
        ;
        code >= 48 && code <= 57;
        offset += 1, code = text.charCodeAt(offset), digits += 1, decimals += 1
      )
        mantissa = mantissa * 10 + code - 48;
    }
    const exponent = code === 101 || code === 69;
    if (digits > 0 && !exponent && mantissa < 2 ** 53 && decimals < 23) {
      this.at = offset;
      const value = mantissa / 10 ** decimals;
      return negative ? -value : value;
    }
    const match = /^[-+]?(inf|nan|(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?)/.exec(text.slice(start, start + 64));
    if (!match) throw this.fault(`"${text.slice(start, start + 12).split(/[\s,\])]/)[0]}" is not a number`);
    this.at = start + match[0].length;
    if (match[1] === 'inf') return negative ? -Infinity : Infinity;
    return match[1] === 'nan' ? Number.NaN : Number(match[0]);
  }

  /** Letters, digits and what may stand inside names; '' when something else comes. */
  protected word(): string {
    this.skip();
    const { text } = this;
    const start = this.at;
    while (this.at < text.length && isWordCode(text.charCodeAt(this.at))) this.at += 1;
    return text.slice(start, this.at);
  }

  protected expect(character: string): void {
    if (this.peek() !== character)
      throw this.fault(`"${character}" is expected, and "${this.peek() || 'the end'}" stands there`);
    this.at += 1;
  }

  protected peek(): string {
    this.skip();
    return this.text[this.at] ?? '';
  }

  protected skip(): void {
    const { text } = this;
    for (;;) {
      const code = text.charCodeAt(this.at);
      if (code === 32 || code === 10 || code === 13 || code === 9) this.at += 1;
      else if (code === 35) {
        const end = text.indexOf('\n', this.at);
        this.at = end < 0 ? text.length : end;
      } else return;
    }
  }

  protected fault(message: string): KinkajouError {
    let line = 1;
    const end = Math.min(this.at, this.text.length);
    for (let i = 0; i < end; i += 1) if (this.text.charCodeAt(i) === 10) line += 1;
    return new KinkajouError(
      'usd.broken',
      message,
      { file: this.file, line },
      'Export or copy the file again.',
    );
  }
}

function isWordCode(code: number): boolean {
  // Letters, digits, _ : . ! and everything beyond ASCII.
  return (
    (code >= 97 && code <= 122) ||
    (code >= 65 && code <= 90) ||
    (code >= 48 && code <= 58) ||
    code === 95 ||
    code === 46 ||
    code === 33 ||
    code > 127
  );
}

/** `inputs:file.connect` -> [`inputs:file`, `connect`]. */

function unescaped(text: string): string {
  return text.replace(/\\(n|t|r|\\|"|'|x[0-9a-fA-F]{2})/g, (_, code: string) => {
    if (code === 'n') return '\n';
    if (code === 't') return '\t';
    if (code === 'r') return '\r';
    return code.startsWith('x') ? String.fromCharCode(Number.parseInt(code.slice(1), 16)) : code;
  });
}
