#!/usr/bin/env node
import { run } from './main.ts';

/** Commands about a server's own data, which belong to the server. */
const OF_SERVERS = new Set(['backup', 'restore', 'export', 'import', 'sweep', 'doctor']);

const args = process.argv.slice(2);
if (OF_SERVERS.has(args[0])) {
  process.stderr.write(
    `"${args[0]}" is about a server's own data. Run it where the server lies, as bin/kinkajou ${args[0]}.\n`,
  );
  process.exitCode = 2;
} else await run(args);
