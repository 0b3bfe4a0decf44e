import { runEvents } from '../../../../src/server/runs';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 15_000;

/** Server-sent events: one for every change of any run. */
export function GET(request: Request): Response {
  const events = runEvents();
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const told = (payload: string) => send(`data: ${payload}\n\n`);
      const alive = setInterval(() => send(': alive\n\n'), KEEP_ALIVE_MS);
      events.on('run', told);
      send(': open\n\n');
      request.signal.addEventListener('abort', () => {
        clearInterval(alive);
        events.off('run', told);
        controller.close();
      });
    },
  });
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
}
