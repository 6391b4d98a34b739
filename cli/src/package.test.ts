import { execFile, execFileSync, spawnSync } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { beforeAll, describe, expect, it } from 'vitest';
import { encodePng } from '../../core/src/images/encode.ts';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
let home: string;
let program: string;

function kinkajou(...args: string[]): Promise<{ exit: number; out: string; err: string }> {
  return new Promise((resolve) => {
    execFile(process.execPath, [program, ...args], { cwd: home, maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ exit: error ? Number(error.code) : 0, out, err }),
    );
  });
}

const cube = (name: string) =>
  `mtllib crate.mtl\no ${name}\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nusemtl Plank\nf 1/1/1 2/2/1 3/3/1 4/4/1\n`;

/** Two images large enough that threads bake them. */
async function planks(folder: string, size: number): Promise<void> {
  const png = await encodePng({
    width: size,
    height: size,
    components: 3,
    data: Uint8Array.from({ length: size * size * 3 }, (_, i) => (i * 31) % 251),
  });
  await writeFile(join(folder, 'plank_basecolor.png'), png);
  await writeFile(join(folder, 'plank_roughness.png'), png);
  await writeFile(
    join(folder, 'crate.mtl'),
    'newmtl Plank\nmap_Kd plank_basecolor.png\nmap_Pr plank_roughness.png\n',
  );
}

/** Installed as a package is, away from this repository but for what it depends on. */
beforeAll(async () => {
  home = await mkdtemp(join(tmpdir(), 'kinkajou-package-'));
  const packed = execFileSync(process.execPath, [join(ROOT, 'scripts/buildCli.mjs'), join(home, 'made')], {
    encoding: 'utf8',
  }).trim();
  const modules = join(home, 'installed/node_modules');
  await mkdir(modules, { recursive: true });
  execFileSync('tar', ['-xzf', packed, '-C', modules]);
  execFileSync('mv', [join(modules, 'package'), join(modules, 'kinkajou')]);
  const { dependencies, bin } = JSON.parse(await readFile(join(modules, 'kinkajou/package.json'), 'utf8'));
  for (const name of Object.keys(dependencies))
    await symlink(join(ROOT, 'node_modules', name), join(modules, name));
  program = join(modules, 'kinkajou', bin.kinkajou);
});

describe('the command line as a package', () => {
  it('tells its version and commands, and which are the server’s', async () => {
    const { version } = JSON.parse(await readFile(join(ROOT, 'cli/package.json'), 'utf8'));
    expect(await kinkajou('--version')).toEqual({ exit: 0, out: `${version}\n`, err: '' });
    expect((await kinkajou('--help')).out).toMatch(/inspect[\s\S]*handoff[\s\S]*completion/);
    expect(await kinkajou('doctor')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('where the server lies'),
    });
  });

  it('holds nothing of the repository: no tests, no paths of this machine', async () => {
    const lib = join(program, '..');
    const names = await readdir(lib);
    expect(names.filter((name) => /test|\.ts$/.test(name))).toEqual([]);
    for (const name of names.filter((one) => one.endsWith('.js')))
      expect(await readFile(join(lib, name), 'utf8'), name).not.toContain(ROOT);
  });

  it('hands off with images baked in threads, reads large models in one, and verifies', async () => {
    await mkdir(join(home, 'crate'));
    await planks(join(home, 'crate'), 1600);
    await writeFile(
      join(home, 'crate/crate.obj'),
      `${cube('Crate')}${'# planks of oak, tarred below the water line\n'.repeat(100_000)}`,
    );
    const made = await kinkajou('handoff', 'crate/crate.obj', '--to', 'engine-packed', '--out', 'out');
    expect(made, made.err).toMatchObject({ exit: 0 });
    expect(await kinkajou('verify', 'out')).toMatchObject({ exit: 0 });
    const receipt = JSON.parse(await readFile(join(home, 'out/receipt.json'), 'utf8'));
    expect(receipt.verdict).not.toBe('failed');
  });

  it('works through a folder in threads', async () => {
    await mkdir(join(home, 'crates'));
    await planks(join(home, 'crates'), 8);
    for (let i = 1; i <= 9; i += 1) await writeFile(join(home, `crates/crate_${i}.obj`), cube(`Crate_${i}`));
    const batch = await kinkajou(
      'batch',
      'crates',
      '--to',
      'web-gltf',
      '--out',
      'packages',
      '--threads',
      '2',
      '--json',
    );
    expect(batch, batch.err).toMatchObject({ exit: 0 });
    expect(JSON.parse(await readFile(join(home, 'packages/batch.json'), 'utf8')).assets).toHaveLength(9);
  });

  it('ends quietly where nobody listens any more', async () => {
    const { stdout, status } = await new Promise<{ stdout: string; status: number }>((resolve) => {
      execFile(
        'bash',
        ['-c', `set -o pipefail; "${process.execPath}" "${program}" --help | head -1; echo "$?"`],
        (_error, stdout) => resolve({ stdout, status: Number(stdout.trim().split('\n').at(-1)) }),
      );
    });
    expect(stdout).toContain('Usage');
    expect(status).toBe(0);
  });
});

describe('completion', () => {
  const complete = async (...words: string[]) => {
    const { out } = await kinkajou('completion', 'bash');
    const script = `${out}\nCOMP_WORDS=(kinkajou ${words.map((word) => `'${word}'`).join(' ')}); COMP_CWORD=${words.length}; _kinkajou; printf '%s\\n' "\${COMPREPLY[@]}"`;
    return execFileSync('bash', ['-c', script], { encoding: 'utf8', cwd: home }).trim().split('\n');
  };

  it('offers commands, the commands below them, and their options', async () => {
    expect(await complete('ha')).toEqual(['handoff']);
    expect(await complete('rules', '')).toEqual(expect.arrayContaining(['check', 'try', 'from']));
    expect(await complete('handoff', 'crate.obj', '--hul')).toEqual(['--hulls', '--hull-error']);
    expect(await complete('maps', 'make', '--ma')).toEqual(['--material']);
    // Files where no word fits.
    expect(await complete('inspect', 'crate')).toEqual(expect.arrayContaining(['crate']));
  });

  /** What a shell offers at the end of a line; null where the shell is not there to be asked. */
  const offered = async (shell: 'zsh' | 'fish', line: string): Promise<string[] | null> => {
    if (spawnSync(shell, ['--version']).status !== 0) return null;
    const { out } = await kinkajou('completion', shell);
    const words = line.split(' ');
    const ask =
      shell === 'fish'
        ? `complete -C '${line}'`
        : // What the shell's own parts would show is printed.
          `words=(${words.map((word) => `'${word}'`).join(' ')}); CURRENT=${words.length}; _kinkajou`;
    const parts =
      shell === 'fish' ? '' : `compdef() { }\n_files() { }\n_describe() { print -l -- \${(P)2}; }\n`;
    const printed = execFileSync(
      shell,
      [...(shell === 'zsh' ? ['-f'] : []), '-c', `${parts}${out}\n${ask}`],
      { encoding: 'utf8', cwd: home },
    );
    return printed
      .trim()
      .split('\n')
      .map((row) => row.split(/[\t:]/)[0]);
  };

  it.each(['zsh', 'fish'] as const)(
    'offers in %s, where it is there, what belongs to the command that is called',
    async (shell) => {
      const below = await offered(shell, 'kinkajou maps ');
      if (below === null) return;
      expect(below).toEqual(expect.arrayContaining(['convert', 'detect', 'make']));
      expect(below).not.toContain('handoff');
      // Converting an image is not converting a model.
      const options = await offered(shell, 'kinkajou maps convert a.png --');
      expect(options).toEqual(expect.arrayContaining(['--from', '--depth', '--help']));
      expect(options).not.toContain('--collision');
      expect(await offered(shell, 'kinkajou convert a.obj b.glb --')).toContain('--collision');
    },
  );

  it.each(['zsh', 'fish'])('is a script that names every command for %s', async (shell) => {
    const { exit, out } = await kinkajou('completion', shell);
    expect(exit).toBe(0);
    for (const word of ['inspect', 'handoff', 'batch', 'convert', 'verify']) expect(out).toContain(word);
    expect(out.match(/'/g)?.length).toSatisfy((count: number) => count % 2 === 0);
  });

  it('says which shells it knows', async () => {
    expect(await kinkajou('completion', 'dish')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('bash, zsh, fish'),
    });
  });
});
