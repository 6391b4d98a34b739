import { relative } from 'node:path';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { installGuard } from '@kinkajou/core/guard/guard';
import { ThreadGuard } from '@kinkajou/core/guard/threads';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { Command, CommanderError } from 'commander';
import manifest from '../package.json' with { type: 'json' };
import { EXIT, type Output } from './output.ts';

/** Bytes below which a thread of its own takes longer to start than a model to be read. */
const SMALL_MODEL = 4_000_000;

const collect = (value: string, all: string[]) => [...all, value];

/** What all commands need: where their words go, and who is told how they ended. */
interface Call {
  output: Output;
  done(exit: number): void;
}

/**
 * The commands with their options. Each loads what it needs when it is called, since scripts call them often.
 */
export function createProgram({ output, done }: Call): Command {
  const program = new Command('kinkajou')
    .description('Moves textured models between applications without losing their look.')
    .addHelpText(
      'after',
      '\nOf a server, with DATABASE_URL and KINKAJOU_DATA or those of the demo:\n  backup FILE          database and contents in one file, while it runs\n  restore FILE         into an empty database\n  sweep [--yes]        what nothing refers to; only told without --yes\n  doctor               database, contents by checksum, jobs, workers, disk, limits',
    )
    .version(manifest.version)
    .exitOverride();
  program
    .command('inspect')
    .description('read a model file, a folder or a zip and list what is in it and what is wrong')
    .argument('<path>')
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option(
      '--mend <level>',
      'tell which mends would be applied and what would be left: all, safe or none',
      'none',
    )
    .option('--choose <answer>', 'answer a question, as MATERIAL=SET; may be repeated', collect, [])
    .option('--words <file>', 'words of your own house, as JSON: { "farbe": "baseColor" }; or KINKAJOU_WORDS')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou inspect lantern.zip --mend safe\n  kinkajou inspect crate.fbx --search ../textures --json',
    )
    .action(async (path, options) => {
      const { runInspect } = await import('./inspect.ts');
      done(await runInspect(path, options, output));
    });
  program
    .command('convert')
    .description('write a model in another format, by extension: fbx, obj, usd, usda, usdc, usdz, gltf, glb')
    .argument('<in>')
    .argument('<out>')
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option('--up <axis>', 'Y or Z')
    .option('--unit <unit>', 'm, cm, mm, in, ft, or metres as a number')
    .option('--triangulate', 'cut polygons into triangles')
    .option('--embed', 'images inside the model, where the format can hold them')
    .option('--only <parts>', 'meshes, materials, cameras, lights, clips, skins, shapes; separated by commas')
    .option('--text', 'FBX as text')
    .option('--split-looks', 'USD materials in a layer of their own')
    .option(
      '--patch',
      'same format: mend paths, values and parts of FBX in the file itself and keep everything else',
    )
    .option('--mend <level>', 'with --patch, which mends to apply: all, safe or none', 'safe')
    .option(
      '--drop <pattern>',
      'leave out the parts of this name; stars stand for anything, /.../ is an expression; may be repeated',
      collect,
      [],
    )
    .option('--pivot <where>', 'where the uppermost parts turn about: centre, bottom, origin or balance')
    .option('--turn [seconds]', 'one turn about the middle of the bottom goes along as a clip')
    .option(
      '--collision <shape>',
      'a shape for collision under every part: box, orientedBox, hull, hulls, mesh or none',
    )
    .option('--hulls <number>', 'with --collision hulls, no more than this for a part (16)')
    .option(
      '--hull-error <share>',
      'with --collision hulls, the share of volume that a cut must spare (0.02)',
    )
    .option('--collision-keep <share>', 'with --collision mesh, the share of triangles that stays (1)')
    .option('--takeoff <file>', 'areas and volumes by part and material as CSV')
    .option('--replace', 'write over what an earlier run of the same input wrote there, and nothing else')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      "\nFor example:\n  kinkajou convert crate.fbx crate.glb --drop '*_proxy'\n  kinkajou convert crate.obj mended/crate.obj --patch",
    )
    .action(async (input, out, options) => {
      const { runConvert } = await import('./convert.ts');
      done(await runConvert(input, out, options, output));
    });
  program
    .command('handoff')
    .description('make a model ready for a destination, with its receipt')
    .argument('<path>')
    .option(
      '--to <destination>',
      'a name from "kinkajou destinations", or a profile of your own as a JSON file; may be repeated',
      collect,
      [],
    )
    .option('--out <dir>', 'folder for the package; made when it is not there')
    .option('--plan', 'only tell what would be written, from what, and what would be lost')
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option('--rules <file>', 'a rulebook that is applied first; may be repeated', collect, [])
    .option('--mend <level>', 'apply the mends of findings first: all, safe or none', 'none')
    .option('--choose <answer>', 'answer a question, as MATERIAL=SET; may be repeated', collect, [])
    .option('--words <file>', 'words of your own house, as JSON: { "farbe": "baseColor" }; or KINKAJOU_WORDS')
    .option(
      '--variant <variant>',
      'type of the model, where the destination takes several: glb, gltf, fbx, obj, usdz, usdc, usda',
    )
    .option(
      '--size <size>',
      'longest side of the whole, in metres or as 40cm, where the destination leaves it open',
    )
    .option('--unit <unit>', 'm, cm, mm, in, ft, or metres as a number, where the destination leaves it open')
    .option('--type <type>', 'png, tga, tiff or exr, where the destination leaves it open')
    .option(
      '--drop <pattern>',
      'leave out the parts of this name; stars stand for anything, /.../ is an expression; may be repeated',
      collect,
      [],
    )
    .option('--pivot <where>', 'where the uppermost parts turn about: centre, bottom, origin or balance')
    .option('--turn [seconds]', 'one turn about the middle of the bottom goes along as a clip')
    .option('--stage <file>', 'camera, lamps and environment that go along, as JSON: docs/parts.md')
    .option(
      '--collision <shape>',
      'a shape for collision under every part: box, orientedBox, hull, hulls, mesh or none',
    )
    .option('--hulls <number>', 'with --collision hulls, no more than this for a part (16)')
    .option(
      '--hull-error <share>',
      'with --collision hulls, the share of volume that a cut must spare (0.02)',
    )
    .option('--collision-keep <share>', 'with --collision mesh, the share of triangles that stays (1)')
    .option('--takeoff <file>', 'areas and volumes by part and material as CSV')
    .option(
      '--replace',
      'write over the package that an earlier run made of the same asset, and nothing else',
    )
    .option(
      '--log <file>',
      'what was done to it before, in the page or elsewhere: an exported asset, or its edits as JSON',
    )
    .option('--json', 'print the receipt')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou handoff lantern.zip --to web-gltf --mend safe --out lantern-web\n  kinkajou handoff lantern.zip --to engine-packed --to compositor-usd --plan',
    )
    .action(async (path, options) => {
      const { runHandoff } = await import('./handoff.ts');
      done(await runHandoff(path, options, output));
    });
  program
    .command('batch')
    .description(
      'hand every model below a folder to a destination, by rule; writes one package each and batch.json',
    )
    .argument('<dir>')
    .option(
      '--to <destination>',
      'a name from "kinkajou destinations", or a profile of your own as a JSON file; may be repeated',
      collect,
      [],
    )
    .requiredOption('--out <dir>', 'folder for the packages; made when it is not there')
    .option('--rules <file>', 'a rulebook; may be repeated', collect, [])
    .option('--mend <level>', 'apply the mends of findings that rules leave open: all, safe or none', 'none')
    .option('--words <file>', 'words of your own house, as JSON; or KINKAJOU_WORDS')
    .option('--threads <number>', 'assets at a time', '2')
    .option(
      '--resume',
      'go on where an earlier run stopped; what is unchanged and whole is not written again',
    )
    .option('--watch', 'go on with whatever comes or changes there, until Ctrl-C')
    .option('--json', 'print what batch.json holds')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou batch props --to engine-packed --rules house.json --mend safe --out packages\n  kinkajou batch props --to engine-packed --out packages --resume\n  kinkajou batch arrivals --to engine-packed --rules house.json --out packages --watch',
    )
    .action(async (dir, options) => {
      if (options.watch) {
        const { watchBatch } = await import('./watchBatch.ts');
        const stop = new AbortController();
        // A second one ends the program at once.
        process.once('SIGINT', () => stop.abort());
        done(await watchBatch(dir, options, output, { signal: stop.signal }));
        return;
      }
      const { runBatch } = await import('./batch.ts');
      done(await runBatch(dir, options, output));
    });
  const rules = program.command('rules').description('rulebooks: decisions that are made once');
  rules
    .command('check')
    .description('tell whether files are rulebooks, and what is wrong with one that is not')
    .argument('<file...>')
    .option('--json', 'print one JSON document')
    .addHelpText('after', '\nFor example:\n  kinkajou rules check house.json')
    .action(async (files, options) => {
      const { runRulesCheck } = await import('./rules.ts');
      done(await runRulesCheck(files, options, output));
    });
  rules
    .command('try')
    .description('tell what each rule would do to models; nothing is written')
    .argument('<file>', 'a rulebook')
    .argument('<path...>')
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option('--json', 'print one JSON document')
    .addHelpText('after', '\nFor example:\n  kinkajou rules try house.json lantern.zip crate.fbx')
    .action(async (file, paths, options) => {
      const { runRulesTry } = await import('./rules.ts');
      done(await runRulesTry(file, paths, options, output));
    });
  rules
    .command('from')
    .description('make a rulebook of what was done to an asset')
    .argument('<log>', 'an exported asset, or its edits as JSON')
    .option('--json', 'say nothing besides')
    .addHelpText('after', '\nFor example:\n  kinkajou rules from lantern.asset.zip > lantern-rules.json')
    .action(async (log, options) => {
      const { runRulesFrom } = await import('./rules.ts');
      done(await runRulesFrom(log, options, output));
    });
  program
    .command('compare')
    .description(
      'compare a model with another one or with a package that was made of it: parts, materials and channels',
    )
    .argument('<path>')
    .argument(
      '[other]',
      'a model, or the folder or zip of a handoff; without it the model is compared with a careless reading of itself',
    )
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option('--mend <level>', 'apply the mends of findings first: all, safe or none', 'none')
    .option('--limit <steps>', 'count places that lie farther apart than this many steps of 8 bits', '1.5')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou compare crate.fbx back/crate.obj\n  kinkajou compare crate.fbx crate-web --json',
    )
    .action(async (path, made, options) => {
      const { runCompare } = await import('./compare.ts');
      done(await runCompare(path, made, options, output));
    });
  program
    .command('verify')
    .description('check a handoff against its receipt: every file, byte for byte')
    .argument('<dir>', 'folder or zip of a handoff')
    .option('--json', 'print one JSON document')
    .addHelpText('after', '\nFor example:\n  kinkajou verify lantern-web')
    .action(async (path, options) => {
      const { runVerify } = await import('./verify.ts');
      done(await runVerify(path, options, output));
    });
  program
    .command('join')
    .description('several models as one: writes a .joined file, which is a model for all other commands')
    .argument('<out>', 'the .joined file; all models must lie below its folder')
    .argument(
      '<base>',
      'the model whose unit, axes and names hold, or a joined file that is to name one more',
    )
    .argument('<other>', 'the model that is put beside it')
    .option('--name <name>', 'of the group that holds its parts; its file name unless told')
    .option('--at <x,y,z>', 'where its origin stands, in metres, Y up', '0,0,0')
    .option('--turn <degrees>', 'about the upright axis', '0')
    .option('--scale <number>', 'times its size', '1')
    .option('--log <file>', 'what was done to it before: an exported asset, or its edits as JSON')
    .option('--replace', 'write over the file that is there')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou join harbour.joined quay.fbx lamp/lamp.obj --at 0,1.2,0 --turn 90',
    )
    .action(async (out, base, other, options) => {
      const { runJoin } = await import('./join.ts');
      done(await runJoin([out, base, other], options, output));
    });
  const maps = program.command('maps').description('what images are, and operations on their pixels');
  maps
    .command('detect')
    .description('what each image is, by its name, the names beside it and its pixels')
    .argument('<image...>')
    .option('--words <file>', 'words of your own house, as JSON: { "farbe": "baseColor" }; or KINKAJOU_WORDS')
    .option('--json', 'print one JSON document')
    .addHelpText('after', '\nFor example:\n  kinkajou maps detect textures/*.png')
    .action(async (images, options) => {
      const { runDetect } = await import('./maps.ts');
      done(await runDetect(images, options, output));
    });
  maps
    .command('convert')
    .description('convert an image to another colour space, type or depth; the type follows the extension')
    .argument('<in>')
    .argument('<out>')
    .requiredOption(
      '--from <space>',
      'colour space of the numbers, such as srgb_rec709_scene, or a word of a tag dialect',
    )
    .requiredOption('--to <space>', 'colour space to convert to')
    .option('--exponent <number>', 'raise stored numbers to this first', '1')
    .option('--depth <depth>', '8, 16, half or float')
    .option('--replace', 'write over what an earlier run of the same image wrote there, and nothing else')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou maps convert old.png new.exr --from srgb_rec709_scene --to ACEScg --depth half',
    )
    .action(async (input, out, options) => {
      const { runMapConvert } = await import('./maps.ts');
      done(await runMapConvert(input, out, options, output));
    });
  maps
    .command('make')
    .description(
      'make new images from materials: metal-rough, spec-gloss, legacy, bake-tint, normal, remove-occlusion, undo-premultiplied, pad-edges',
    )
    .argument('<recipe>')
    .argument('<path>')
    .requiredOption('--out <dir>', 'folder for the images')
    .option('--material <name>', 'only this material; may be repeated', collect, [])
    .option('--set <name=value>', 'a setting of the recipe, such as strength=2; may be repeated', collect, [])
    .option('--replace', 'write over what an earlier run of the same model wrote there, and nothing else')
    .option('--search <dir>', 'look for images in this folder too; may be repeated', collect, [])
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou maps make metal-rough crate.fbx --out made --material Planks',
    )
    .action(async (recipe, path, options) => {
      const { runMake } = await import('./make.ts');
      done(await runMake(recipe, path, options, output));
    });
  program
    .command('destinations')
    .description('list the destinations')
    .option('--json', 'print one JSON document')
    .addHelpText('after', '\nFor example:\n  kinkajou destinations --json')
    .action(async (options) => {
      const { runDestinations } = await import('./destinations.ts');
      done(runDestinations(options, output));
    });
  program
    .command('completion')
    .description('print what a shell needs to complete commands and options: bash, zsh or fish')
    .argument('<shell>')
    .addHelpText(
      'after',
      '\nFor example:\n  kinkajou completion bash > ~/.local/share/bash-completion/completions/kinkajou',
    )
    .action(async (shell) => {
      const { completionOf } = await import('./completion.ts');
      output.text(completionOf(program, shell));
    });
  return program;
}

/** Runs one command and returns the exit code: 0 done, 1 errors remain, 2 input or call unusable. */
export async function main(args: string[]): Promise<number> {
  const output: Output = {
    json: (value) => process.stdout.write(`${JSON.stringify(value, null, 2)}\n`),
    text: (line) => process.stdout.write(`${line}\n`),
    message: (line) => process.stderr.write(`${line}\n`),
  };
  let exit: number = EXIT.done;
  const program = createProgram({ output, done: (code) => (exit = code) });
  let guard: ThreadGuard | null = null;
  try {
    guard = new ThreadGuard(
      new URL('../../core/src/guard/thread.mjs', import.meta.url),
      limitsFromEnvironment(),
      SMALL_MODEL,
    );
    installGuard(guard);
    await program.parseAsync(args, { from: 'user' });
    return exit;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.unusable;
    const path = (error as NodeJS.ErrnoException).path;
    const typed = toKinkajouError(
      error,
      'internal',
      typeof path === 'string' ? { file: relative(process.cwd(), path) || '.' } : {},
    );
    output.message(typed.toText());
    if (!(error instanceof KinkajouError) && process.env.KINKAJOU_DEBUG) console.error(error);
    return EXIT.unusable;
  } finally {
    installGuard(null);
    await guard?.close();
  }
}

/** Runs a command as a process of its own. */
export async function run(args: string[]): Promise<void> {
  // Whoever reads what is printed may have seen enough, as `head` has.
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'EPIPE') throw error;
    process.exit();
  });
  process.exitCode = await main(args);
}
