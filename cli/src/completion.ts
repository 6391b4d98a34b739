// biome-ignore-all lint/suspicious/noTemplateCurlyInString: what shells put in its place

import { KinkajouError } from '@kinkajou/core/errors';
import type { Command } from 'commander';

/** A command as a shell needs it: the words that lead to it, and what may follow. */
interface Completed {
  words: string[];
  /** Commands below it, with what they do. */
  below: [string, string][];
  /** Long options, with what they do. */
  options: [string, string][];
}

const SHELLS: Record<string, (commands: readonly Completed[]) => string> = {
  bash: bashScript,
  zsh: zshScript,
  fish: fishScript,
};

/** A script that completes commands and options, made of the program itself. Throws `call.shell`. */
export function completionOf(program: Command, shell: string): string {
  const script = Object.hasOwn(SHELLS, shell) ? SHELLS[shell] : undefined;
  if (!script)
    throw new KinkajouError(
      'call.shell',
      `"${shell}" is no shell known here`,
      {},
      `Take one of ${Object.keys(SHELLS).join(', ')}.`,
    );
  return script(commandsIn(program, []));
}

function commandsIn(command: Command, words: string[]): Completed[] {
  const below = command.commands.map((one): [string, string] => [
    one.name(),
    firstSentence(one.description()),
  ]);
  const options = command.options.flatMap(({ long, description }): [string, string][] =>
    long ? [[long, firstSentence(description)]] : [],
  );
  return [
    { words, below, options: [...options, ['--help', 'how it is called']] },
    ...command.commands.flatMap((one) => commandsIn(one, [...words, one.name()])),
  ];
}

/** Short enough for a list, without signs that shells read. */
function firstSentence(text: string): string {
  return text
    .split(/[;:]/)[0]
    .replaceAll(/["'`$\\[\]]/g, '')
    .trim();
}

/** Words of a call so far, as a pattern: commands alone count, whatever options stand between them. */
function bashScript(commands: readonly Completed[]): string {
  const cases = commands.map(({ words, below, options }) => {
    const all = [...below, ...options].map(([word]) => word).join(' ');
    return `    '${words.join(' ')}') words='${all}' ;;`;
  });
  const names = [...new Set(commands.flatMap(({ words }) => words))].join('|');
  return [
    '_kinkajou() {',
    '  local current="${COMP_WORDS[COMP_CWORD]}" called="" word words=""',
    '  for word in "${COMP_WORDS[@]:1:COMP_CWORD-1}"; do',
    `    case "$word" in ${names}) called="\${called:+$called }$word" ;; esac`,
    '  done',
    '  case "$called" in',
    ...cases,
    '  esac',
    '  COMPREPLY=($(compgen -W "$words" -- "$current"))',
    '  if [ ${#COMPREPLY[@]} -eq 0 ]; then COMPREPLY=($(compgen -f -- "$current")); fi',
    '}',
    'complete -o filenames -F _kinkajou kinkajou',
  ].join('\n');
}

function zshScript(commands: readonly Completed[]): string {
  const cases = commands.map(({ words, below, options }) => {
    const all = [...below, ...options]
      .map(([word, description]) => `'${word}:${description.replaceAll(':', ' ')}'`)
      .join(' ');
    return `    '${words.join(' ')}') offered=(${all}) ;;`;
  });
  const names = [...new Set(commands.flatMap(({ words }) => words))].join('|');
  return [
    '#compdef kinkajou',
    '_kinkajou() {',
    '  local called="" word; local -a offered',
    '  for word in "${(@)words[2,CURRENT-1]}"; do',
    `    case "$word" in ${names}) called="\${called:+$called }$word" ;; esac`,
    '  done',
    '  case "$called" in',
    ...cases,
    '  esac',
    '  _describe kinkajou offered',
    '  _files',
    '}',
    'compdef _kinkajou kinkajou',
  ].join('\n');
}

function fishScript(commands: readonly Completed[]): string {
  const names = [...new Set(commands.flatMap(({ words }) => words))].join(' ');
  const lines = commands.flatMap(({ words, below, options }) => {
    const line = (what: string, description: string) =>
      `complete -c kinkajou -n '${['__kinkajou_called', ...words].join(' ')}' ${what} -d '${description}'`;
    return [
      ...below.map(([word, description]) => line(`-a ${word}`, description)),
      ...options.map(([word, description]) => line(`-l ${word.slice(2)}`, description)),
    ];
  });
  return [
    'function __kinkajou_called',
    '  set -l called',
    '  for word in (commandline -opc)[2..-1]',
    `    contains -- $word ${names}; and set -a called $word`,
    '  end',
    '  test "$called" = "$argv"',
    'end',
    ...lines,
  ].join('\n');
}
