import { PAGE_HEADER } from '@/server/wire/page';
import { awaited } from './connection.ts';

/** An error that the server explained. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly code: string,
    readonly status: number,
  ) {
    super(message);
  }
}

const OFFLINE = 'offline';

/** Whether a request did not get through, so that it may be sent again. */
export function isOffline(error: Error): boolean {
  return error instanceof ApiError && error.code === OFFLINE;
}

const PAGE_KEY = 'kinkajou-page';

/** A name for this browser, kept in it; '' where nothing can be kept. */
function pageName(): string {
  try {
    const existing = localStorage.getItem(PAGE_KEY);
    if (existing) return existing;
    const name = crypto.randomUUID();
    localStorage.setItem(PAGE_KEY, name);
    return name;
  } catch {
    return '';
  }
}

/** Asks the server for JSON. Throws {@link ApiError} with the server's own words. */
export async function api<T>(path: string, init?: { method?: string; body?: unknown }): Promise<T> {
  let response: Response;
  try {
    response = await awaited(
      fetch(path, {
        method: init?.method ?? 'GET',
        headers: {
          ...(init?.body === undefined ? {} : { 'content-type': 'application/json' }),
          [PAGE_HEADER]: pageName(),
        },
        body: init?.body === undefined ? undefined : JSON.stringify(init.body),
      }),
    );
  } catch {
    throw new ApiError('Kinkajou does not answer. Is the server still running?', OFFLINE, 0);
  }
  const answer = await response.json().catch(() => null);
  if (!response.ok)
    throw new ApiError(
      answer?.error?.text ?? `The server answered ${response.status}.`,
      answer?.error?.code ?? 'unknown',
      response.status,
    );
  return answer as T;
}

/** Address of an image as a small picture, at most `size` pixels a side. */
export function pictureUrl(sha256: string, size: number): string {
  return `/api/pictures/${sha256}?size=${size}`;
}

/** Address of a content as it was delivered. */
export function blobUrl(sha256: string): string {
  return `/api/blobs/${sha256}`;
}
