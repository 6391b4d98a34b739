import { NextRequest } from 'next/server';
import { describe, expect, it } from 'vitest';
import { config, proxy } from '../proxy.ts';
import { checkAddress, listensHereAlone } from './address.ts';
import { contentPolicy, isKnownHost, isLoopback } from './doors.ts';
import { checkHost, checkOrigin, readJson } from './respond.ts';

const ask = (host: string) =>
  proxy(new NextRequest('http://127.0.0.1:4700/api/shelf', { headers: { host } }));

describe('the name that a request asks for', () => {
  it.each(['localhost', 'localhost:4700', '127.0.0.1:4700', '[::1]:4700', 'LOCALHOST:1'])(
    '%s is ours',
    (host) => {
      expect(isKnownHost(host)).toBe(true);
      expect(ask(host).status).toBe(200);
    },
  );

  it.each([
    'harbour.example',
    '127.0.0.1.harbour.example',
    'localhost.harbour.example:80',
    '',
    '10.0.0.5:4700',
  ])('%s is not, unless it is configured', (host) => {
    expect(isKnownHost(host)).toBe(false);
    expect(isKnownHost(host, 'quay.local, harbour.example')).toBe(host === 'harbour.example');
  });

  it('that is not ours gets nothing but the reason', async () => {
    const answer = ask('harbour.example');
    expect(answer.status).toBe(421);
    expect(await answer.json()).toMatchObject({
      error: { code: 'forbidden', text: expect.stringContaining('KINKAJOU_HOSTS') },
    });
    expect(isKnownHost(null)).toBe(false);
  });
});

describe('a body', () => {
  const body = (text: string, headers: Record<string, string> = {}) =>
    new Request('http://localhost/api/x', {
      method: 'POST',
      body: text,
      headers: { host: 'localhost', ...headers },
    });

  it('is JSON of at most 8 MB', async () => {
    expect(await readJson(body('{"a":1}'))).toEqual({ a: 1 });
    await expect(readJson(body('{"a"'))).rejects.toMatchObject({
      code: 'request.invalid',
      message: 'the request holds no JSON',
    });
    await expect(readJson(body(`"${'x'.repeat(9 << 20)}"`))).rejects.toMatchObject({ code: 'limit.request' });
    await expect(readJson(body('{}', { 'content-length': String(20 << 20) }))).rejects.toMatchObject({
      code: 'limit.request',
    });
  });

  it('of a file is looked at by its own route, which the proxy leaves alone', () => {
    const matcher = new RegExp(`^${config.matcher}$`);
    for (const path of [
      '/',
      '/assets/1',
      '/api/shelf',
      '/api/parcels/1',
      '/api/parcels/1/files/x',
      '/api/environments/1',
    ])
      expect(matcher.test(path)).toBe(true);
    for (const path of ['/api/parcels/1/files', '/api/environments']) expect(matcher.test(path)).toBe(false);
    const foreign = new Request('http://localhost/api/environments', {
      headers: { host: 'harbour.example' },
    });
    expect(() => checkHost(foreign)).toThrow('this server does not go by that name');
    expect(() => checkOrigin(foreign)).toThrow('this server does not go by that name');
  });
});

describe('an answer', () => {
  it('says what its page may load, with a new word each time', () => {
    const [one, two] = [ask('localhost'), ask('localhost')].map(
      ({ headers }) => headers.get('content-security-policy') ?? '',
    );
    const nonce = /'nonce-([^']+)'/.exec(one)?.[1] ?? '';
    expect(nonce.length).toBeGreaterThan(20);
    expect(two).not.toContain(nonce);
    const scripts = (policy: string) =>
      policy.split('; ').find((part) => part.startsWith('script-src')) ?? '';
    expect(scripts(one)).not.toMatch(/'unsafe-(inline|eval)'/);
    expect(scripts(contentPolicy('x', true))).toContain("'unsafe-eval'");
    expect(one).toContain("frame-ancestors 'none'");
  });

  it('is neither guessed at, framed, nor lent to other origins', () => {
    const { headers } = ask('localhost');
    const said = (name: string) => headers.get(name);
    expect([
      said('x-content-type-options'),
      said('x-frame-options'),
      said('referrer-policy'),
      said('cross-origin-resource-policy'),
    ]).toEqual(['nosniff', 'DENY', 'same-origin', 'same-origin']);
    expect(said('permissions-policy')).toContain('camera=()');
  });
});

it('only loopback is reached from this machine alone', () => {
  expect(['localhost', '127.0.0.1', '127.1.2.3', '::1'].map(isLoopback)).toEqual([true, true, true, true]);
  expect(['0.0.0.0', '::', '10.0.0.5', undefined, ''].map(isLoopback)).toEqual([
    false,
    false,
    false,
    false,
    false,
  ]);
});

it('the server ends where others would reach it', () => {
  const ended: string[] = [];
  const check = (...args: string[]) =>
    checkAddress(['node', 'next', 'start', ...args], (words) => void ended.push(words));
  check('-H', '127.0.0.1');
  check('--hostname', 'localhost');
  check('--hostname=::1');
  expect(ended).toEqual([]);
  const alone = [['-H', '127.0.0.1'], ['--hostname=::1'], ['-H', '0.0.0.0'], []].map(listensHereAlone);
  expect(alone).toEqual([true, true, false, false]);
  check('-H', '0.0.0.0');
  check();
  expect(ended[0]).toMatch(/^The server would listen on 0\.0\.0\.0, .*-H 127\.0\.0\.1/);
  expect(ended[1]).toMatch(/every address of this machine/);
  process.env.KINKAJOU_OPEN = 'yes';
  check('-H', '0.0.0.0');
  delete process.env.KINKAJOU_OPEN;
  expect(ended.length).toBe(2);
});
