import { subscribe } from '@/server/events';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 20_000;

/** Streams what changes to the page, as server-sent events. */
export async function GET(request: Request) {
  const encoder = new TextEncoder();
  const stream = new ReadableStream({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          stop();
        }
      };
      const unsubscribe = subscribe((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const timer = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
      const stop = () => {
        unsubscribe();
        clearInterval(timer);
      };
      request.signal.addEventListener('abort', stop);
      send(': hello\n\n');
    },
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
