import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { notFound } from '../respond.ts';

/** The server runs in the folder `web`; what is read here is what the repository's readers read. */
const DOCS = join(process.cwd(), '..', 'docs');
/** Pages beside the guide that people who use the page need. */
const REFERENCE = ['findings', 'parts', 'rules', 'destinations', 'materials', 'glossary'] as const;

/** Names of the guide's pages; nothing else below its folder is shown. */
const GUIDE_PAGE = /^guide\/\d\d-[\w-]+$/;

/** A page of Help in the lists. */
export interface HelpPage {
  /** Its place below /help. */
  path: string;
  title: string;
}

/** Pages of Help by their kind. */
export interface HelpList {
  guide: HelpPage[];
  reference: HelpPage[];
}

/** All pages of the help, the guide's in order. */
export async function listHelp(): Promise<HelpList> {
  const names = (await readdir(join(DOCS, 'guide'))).map((name) => `guide/${name.replace(/\.md$/, '')}`);
  const page = async (path: string) => ({
    path,
    title: titleOf(await readFile(join(DOCS, `${path}.md`), 'utf8')),
  });
  return {
    guide: await Promise.all(
      names
        .filter((name) => GUIDE_PAGE.test(name))
        .sort()
        .map(page),
    ),
    reference: await Promise.all(REFERENCE.map(page)),
  };
}

/** The text of a page that is listed, or of the guide's list for an empty path. Throws `notFound`. */
export async function helpText(path: string): Promise<string> {
  if (path === '') return readFile(join(DOCS, 'guide', 'README.md'), 'utf8');
  if (!GUIDE_PAGE.test(path) && !(REFERENCE as readonly string[]).includes(path))
    throw notFound('page of the help');
  return readFile(join(DOCS, `${path}.md`), 'utf8').catch(() => {
    throw notFound('page of the help');
  });
}

/** A picture of the guide by its file's name. Throws `notFound`. */
export async function helpPicture(name: string): Promise<Uint8Array> {
  if (!/^\d\d\.png$/.test(name)) throw notFound('picture of the help');
  return readFile(join(DOCS, 'guide', 'pictures', name)).catch(() => {
    throw notFound('picture of the help');
  });
}

function titleOf(text: string): string {
  return /^# (.+)$/m.exec(text)?.[1] ?? '';
}
