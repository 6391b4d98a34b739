import type { Command } from 'commander';
import { describe, expect, it } from 'vitest';
import { createProgram } from './main.ts';

describe('help', () => {
  it('shows for each command a call that it takes', () => {
    const told = new Map<Command, string>();
    const keepHelp = (command: Command) => {
      let help = '';
      command.configureOutput({ writeOut: (text) => (help += text) }).outputHelp();
      told.set(command, help);
      for (const below of command.commands) keepHelp(below);
    };
    const silent = { json: () => undefined, text: () => undefined, message: () => undefined };
    const program = createProgram({ output: silent, done: () => undefined });
    keepHelp(program);
    const leaves = (command: Command): Command[] =>
      command.commands.length === 0 ? [command] : command.commands.flatMap(leaves);
    for (const command of leaves(program)) {
      const calls = [...(told.get(command) ?? '').matchAll(/^ {2}(kinkajou .*)$/gm)].map(([, call]) => call);
      expect(calls.length, command.name()).toBeGreaterThan(0);
      for (const call of calls) {
        expect(call).toContain(` ${command.name()}`);
        const known = command.options.map(({ long }) => long);
        for (const [option] of call.matchAll(/--[a-z-]+/g)) expect(known, call).toContain(option);
      }
    }
  });
});
