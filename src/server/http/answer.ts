/** From services to web answers: faults become a status and a sentence in one place. */
import { textFormOf } from '../../core/text';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { ZodError } from 'zod';
import { FaultError, faultOf, sayFault, sayIssue, type FaultCode } from '../../core/faults';

/** Statuses of faults that are not the plain "cannot be done with what was given" (422). */
const STATUS: Partial<Record<FaultCode, number>> = {
  'invalid-request': 400,
  'not-allowed': 403,
  'not-found': 404,
  'no-such-entry': 404,
  conflict: 409,
  'limit-reached': 413,
  'disk-full': 507,
};

/** Runs a service and shapes its answer as JSON; a fault becomes `{ fault: { code, sentence } }`. */
export async function answer(work: () => Promise<unknown>): Promise<Response> {
  try {
    return Response.json((await work()) ?? null);
  } catch (error) {
    return faultResponse(error);
  }
}

/** A text to keep as a file. */
export async function answerText(name: string, mime: string, work: () => Promise<string>): Promise<Response> {
  try {
    const headers = {
      'content-type': `${mime}; charset=utf-8`,
      'content-disposition': `attachment; filename="${name}"`,
      'x-content-type-options': 'nosniff',
    };
    return new Response(await work(), { headers });
  } catch (error) {
    return faultResponse(error);
  }
}

/** A whole file to keep, streamed. */
export async function answerFile(mime: string, work: () => Promise<{ file: string; name: string }>): Promise<Response> {
  try {
    const { file, name } = await work();
    const { size } = await stat(file);
    return new Response(Readable.toWeb(createReadStream(file)) as ReadableStream, {
      headers: {
        'content-type': mime,
        'content-length': String(size),
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
        'x-content-type-options': 'nosniff',
      },
    });
  } catch (error) {
    return faultResponse(error);
  }
}

/** A large file of which players ask for stretches. */
export async function answerStretch(
  request: Request,
  work: () => Promise<{ file: string; mime: string; name: string }>,
): Promise<Response> {
  try {
    const { file, mime, name } = await work();
    const { size } = await stat(file);
    return stretchOf(request, {
      ...{ size, mime, path: name },
      chunks: (from, to) => createReadStream(file, { start: from, end: to - 1 }),
    });
  } catch (error) {
    return faultResponse(error);
  }
}

/** The stretch that is asked for of something that is made as it is read. */
export function stretchOf(
  request: Request,
  file: {
    readonly size: number;
    readonly mime: string;
    readonly path: string;
    chunks(from: number, to: number): AsyncIterable<Uint8Array>;
  },
): Response {
  const { size, mime, path } = file;
  const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.get('range') ?? '');
  const from = Number(range?.[1] ?? 0);
  const to = Math.min(size - 1, range === null || range[2] === '' ? Infinity : Number(range[2]));
  const headers = {
    'content-type': mime,
    'content-disposition': `inline; filename*=UTF-8''${encodeURIComponent(path.slice(path.lastIndexOf('/') + 1))}`,
    'content-security-policy': "default-src 'none'; sandbox",
    'x-content-type-options': 'nosniff',
    'accept-ranges': 'bytes',
    'cache-control': 'private, no-cache',
  };
  if (from > to)
    return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  return new Response(Readable.toWeb(Readable.from(file.chunks(from, to + 1))) as ReadableStream, {
    status: range === null ? 200 : 206,
    headers: {
      ...headers,
      'content-length': String(to - from + 1),
      ...(range === null ? {} : { 'content-range': `bytes ${from}-${to}/${size}` }),
    },
  });
}

/** The bytes of something, with range requests answered. Never run by a browser, whatever they are. */
export async function answerBytes(
  request: Request,
  work: () => Promise<{ bytes: Uint8Array; mime: string; path: string }>,
): Promise<Response> {
  try {
    const { bytes, mime, path } = await work();
    const name = encodeURIComponent(path.slice(path.lastIndexOf('/') + 1));
    const headers = {
      'content-type': mime.startsWith('text/') ? `text/plain; charset=${textFormOf(bytes).encoding}` : mime,
      'content-disposition': `inline; filename*=UTF-8''${name}`,
      'content-security-policy': "default-src 'none'; sandbox",
      'x-content-type-options': 'nosniff',
      'accept-ranges': 'bytes',
      'cache-control': 'private, no-cache',
    };
    const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.get('range') ?? '');
    if (range === null) return new Response(bytes as BodyInit, { headers });
    const from = Number(range[1]);
    const to = Math.min(bytes.length - 1, range[2] === '' ? Infinity : Number(range[2]));
    if (from > to)
      return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${bytes.length}` } });
    return new Response(bytes.subarray(from, to + 1) as BodyInit, {
      status: 206,
      headers: { ...headers, 'content-range': `bytes ${from}-${to}/${bytes.length}` },
    });
  } catch (error) {
    return faultResponse(error);
  }
}

/** One stretch of something large: what is not asked for is never read. */
export async function answerPart(
  request: Request,
  work: (from: number, to: number) => Promise<{ bytes: Uint8Array; size: number }>,
): Promise<Response> {
  try {
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.get('range') ?? '');
    const from = Number(range?.[1] ?? 0);
    const { bytes, size } = await work(from, Number(range?.[2] ?? 4095));
    if (bytes.length === 0 && size > 0)
      return new Response(null, { status: 416, headers: { 'content-range': `bytes */${size}` } });
    return new Response(bytes as BodyInit, {
      status: 206,
      headers: {
        'content-type': 'application/octet-stream',
        'content-security-policy': "default-src 'none'; sandbox",
        'x-content-type-options': 'nosniff',
        'content-range': `bytes ${from}-${from + bytes.length - 1}/${size}`,
      },
    });
  } catch (error) {
    return faultResponse(error);
  }
}

export function faultResponse(error: unknown): Response {
  if (error instanceof ZodError) {
    const issue = error.issues[0]!;
    const sentence = `The request is not right: ${issue.path.join('.') || 'it'} ${sayIssue(issue)}.`;
    return Response.json({ fault: { code: 'invalid-request', sentence } }, { status: 400 });
  }
  if (isDatabaseGone(error)) {
    const sentence = 'The database cannot be reached just now. Nothing is lost; it is tried again.';
    return Response.json({ fault: { code: 'in-use', sentence } }, { status: 503 });
  }
  const fault = faultOf(error);
  // Anything that is no fault of a file or a caller is ours, and belongs in the log with its stack.
  if (fault.code === 'defect') {
    process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
    return Response.json(
      {
        fault: {
          code: 'defect',
          sentence: 'Something went wrong in Zero Latch itself. The file log/web.log in its folder says what.',
        },
      },
      { status: 500 },
    );
  }
  return Response.json(
    { fault: { code: fault.code, sentence: sayFault(fault) } },
    { status: STATUS[fault.code] ?? 422 },
  );
}

function isDatabaseGone(error: unknown): boolean {
  const name = (error as { name?: string }).name ?? '';
  const message = (error as { message?: string }).message ?? '';
  return (
    name.startsWith('SequelizeConnection') ||
    /ECONNREFUSED|terminating connection|Connection terminated|database system is/.test(message)
  );
}

/** A positive whole number from the address. @throws FaultError */
export function numberParam(text: string | null | undefined, name: string): number {
  const number = Number(text);
  if (Number.isSafeInteger(number) && number >= 0 && text !== '' && text != null) return number;
  throw new FaultError({ code: 'invalid-request', what: `${name} is not a number` });
}

/** A request whose body is read as a file or not at all: a body of JSON is parsed once, by its contract. */
export type FileRequest = Omit<Request, 'json' | 'text' | 'arrayBuffer' | 'blob' | 'formData' | 'bytes'>;

/** The body of a request, piece by piece. @throws FaultError when there is none */
export function bodyChunks(request: FileRequest): AsyncIterable<Uint8Array> {
  if (request.body === null) throw new FaultError({ code: 'invalid-request', what: 'there is no file in the request' });
  // Node's streams can be iterated; the types of the web's do not say so yet.
  return request.body as unknown as AsyncIterable<Uint8Array>;
}
