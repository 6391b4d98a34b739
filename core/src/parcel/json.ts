import { type ParseError, parse, printParseErrorCode } from 'jsonc-parser';
import { KinkajouError } from '../errors.ts';

const EXPECTED: Record<string, string> = {
  InvalidNumberFormat: 'a number',
  PropertyNameExpected: 'the name of a property in quotes',
  ValueExpected: 'a value',
  ColonExpected: 'a colon',
  CommaExpected: 'a comma',
  CloseBraceExpected: 'a closing brace',
  CloseBracketExpected: 'a closing bracket',
  EndOfFileExpected: 'the end of the file',
  UnexpectedEndOfString: 'a closing quote',
  UnexpectedEndOfNumber: 'the rest of a number',
};

/** What of a JSON text is whose fault: its file, the code to refuse it with, and what to do. */
export interface JsonPlace {
  file: string;
  code: string;
  hint: string;
}

/** Reads JSON. Throws the given code with the line, and what should stand there. */
export function parseJson(text: string, { file, code, hint }: JsonPlace): unknown {
  try {
    return JSON.parse(text);
  } catch {
    const errors: ParseError[] = [];
    parse(text, errors, { disallowComments: true });
    const [first] = errors;
    const offset = first?.offset ?? text.length;
    const before = text.slice(0, offset);
    const line = before.split('\n').length;
    const column = offset - before.lastIndexOf('\n');
    const expected = first && EXPECTED[printParseErrorCode(first.error)];
    throw new KinkajouError(
      code,
      `its JSON is damaged at column ${column}: ${expected ? `${expected} should stand there` : 'nothing like that can stand there'}`,
      { file, line },
      hint,
    );
  }
}
