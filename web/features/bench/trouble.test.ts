import { expect, it } from 'vitest';
import { troubleIn } from './trouble.ts';

const well = { ok: true, database: 'ok', worker: 'ok', blobs: 'ok' };
const reached = { lost: false, slow: 0, unread: [], health: well, unsent: 0 };

it('says nothing where all is well, or not known yet', () => {
  expect(troubleIn(reached)).toBeNull();
  expect(troubleIn({ ...reached, unsent: 3, health: undefined })).toBeNull();
});

it('says the worst first, and what becomes of what was done', () => {
  const bad = {
    ok: false,
    database: 'the database does not answer',
    worker: 'no worker has been seen for 40 s',
    blobs: 'the store cannot be written',
  };
  expect(troubleIn({ ...reached, lost: true, slow: 2, health: bad, unsent: 1 })).toBe(
    'The server does not answer. What you did is kept here and sent when it does.',
  );
  expect(troubleIn({ ...reached, lost: true })).toBe('The server does not answer. Trying again ...');
  expect(troubleIn({ ...reached, slow: 1, health: bad })).toMatch(
    /^The database does not answer\. Nothing is lost/,
  );
  expect(troubleIn({ ...reached, health: { ...bad, database: 'ok' } })).toMatch(
    /^No worker has been seen for 40 s\. Edits are kept/,
  );
  expect(troubleIn({ ...reached, health: { ...bad, database: 'ok', worker: 'ok' } })).toMatch(
    /^The store cannot be written\./,
  );
  expect(troubleIn({ ...reached, slow: 1, unread: ['tar.png'] })).toBe(
    'tar.png cannot be read from the store. Asked for again ...',
  );
  expect(troubleIn({ ...reached, unread: ['tar.png', 'oak.png', 'The geometry'] })).toMatch(
    /^tar\.png and 2 more cannot be read/,
  );
  expect(troubleIn({ ...reached, slow: 1 })).toBe('The server takes long to answer. You can go on.');
});
