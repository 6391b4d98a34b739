'use client';

import { create } from 'zustand';

/** An answer that takes longer than this is waited for in words. */
const SLOW_MS = 4000;

interface Connection {
  /** The server does not answer at all. */
  lost: boolean;
  /** How many answers are waited for longer than is usual. */
  slow: number;
  /** Contents that the server could not give, by name; they are asked for again. */
  unread: readonly string[];
}

/** How the server is reached, as far as this page can tell. */
export const useConnection = create<Connection>()(() => ({ lost: false, slow: 0, unread: [] }));

/** Notes whether the server's events reach the page. */
export function setLost(lost: boolean): void {
  if (useConnection.getState().lost !== lost) useConnection.setState({ lost });
}

/** Notes a content that could not be read. */
export function noteUnread(name: string): void {
  useConnection.setState(({ unread }) => (unread.includes(name) ? {} : { unread: [...unread, name] }));
}

/** Notes that a content came after all. */
export function noteRead(name: string): void {
  if (useConnection.getState().unread.includes(name))
    useConnection.setState(({ unread }) => ({ unread: unread.filter((one) => one !== name) }));
}

/** Waits for an answer, and says so when it takes long. */
export async function awaited<T>(answer: Promise<T>): Promise<T> {
  let counted = false;
  const timer = setTimeout(() => {
    counted = true;
    useConnection.setState(({ slow }) => ({ slow: slow + 1 }));
  }, SLOW_MS);
  try {
    return await answer;
  } finally {
    clearTimeout(timer);
    if (counted) useConnection.setState(({ slow }) => ({ slow: slow - 1 }));
  }
}
