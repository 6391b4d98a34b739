import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The repository's root folder, wherever the clone lies. */
export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
export const isRoot = process.getuid?.() === 0;

/** Runs a command to its end. Rejects with its output when it fails. */
export function run(command, args, { quiet = false, ...options } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd: ROOT,
      stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
      ...options,
    });
    let output = '';
    child.stdout?.on('data', (chunk) => (output += chunk));
    child.stderr?.on('data', (chunk) => (output += chunk));
    child.on('error', reject);
    child.on('close', (code) => {
      if (code === 0) resolve(output);
      else
        reject(
          Object.assign(
            new Error(`${command} ${args.join(' ')} ended with ${code}\n${output.slice(-4000)}`),
            { code, output },
          ),
        );
    });
  });
}

/** A port of the loopback interface that is free now, the preferred one if it is. */
export function freePort(preferred = 0) {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', () =>
      preferred ? freePort(0).then(resolve, reject) : reject(new Error('no free port')),
    );
    server.listen(preferred, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

export function say(line) {
  process.stdout.write(`${line}\n`);
}
