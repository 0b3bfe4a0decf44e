import { runEvents } from '../../../../src/server/runs';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 15_000;

/** Server-sent events: one for every change of any run. */
export function GET(request: Request): Response {
  const events = runEvents();
  const encoder = new TextEncoder();
  let leave = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      // One listener that has gone must not keep the news from the others.
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          leave();
        }
      };
      const onRun = (payload: string) => send(`data: ${payload}\n\n`);
      const alive = setInterval(() => send(': alive\n\n'), KEEP_ALIVE_MS);
      leave = () => {
        clearInterval(alive);
        events.off('run', onRun);
      };
      events.on('run', onRun);
      send(': open\n\n');
      request.signal.addEventListener('abort', () => leave());
    },
    cancel: () => leave(),
  });
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
}
