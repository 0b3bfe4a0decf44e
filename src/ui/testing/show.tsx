/** Components in tests: shown as in the application, talking to a server that is made up. */
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, type RenderResult } from '@testing-library/react';
import type { ReactNode } from 'react';
import { Notices } from '../shared/notices';
import { theme } from '../shell/theme';

export function show(children: ReactNode): RenderResult {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <ThemeProvider theme={theme}>
      <QueryClientProvider client={client}>
        <Notices>{children}</Notices>
      </QueryClientProvider>
    </ThemeProvider>,
  );
}

export interface Asked {
  readonly method: string;
  /** Below `/api/`. */
  readonly path: string;
  readonly body: unknown;
  readonly headers: Readonly<Record<string, string>>;
}

type Answer = (asked: Asked) => unknown;

/** A refusal of the made-up server. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly sentence: string,
  ) {}
}

/**
 * Answers requests instead of the server.
 *
 * @param answers by method and path, such as `GET home`; what is asked and not there fails the test
 * @returns what has been asked so far
 */
export function serve(answers: Readonly<Record<string, Answer>>): Asked[] {
  const asked: Asked[] = [];
  globalThis.fetch = jest.fn(async (address: string, init: RequestInit = {}) => {
    const { method = 'GET', headers = {} } = init;
    const path = address.replace(/^\/api\//, '');
    const body = typeof init.body === 'string' ? (JSON.parse(init.body) as unknown) : init.body;
    const one: Asked = { method, path, body, headers: headers as Record<string, string> };
    asked.push(one);
    const answer = answers[`${method} ${path}`];
    if (answer === undefined) throw new Error(`nobody answers ${method} ${path}`);
    const said = answer(one);
    const isRefusal = said instanceof Refusal;
    const text = JSON.stringify(isRefusal ? { fault: { code: said.code, sentence: said.sentence } } : (said ?? null));
    return {
      ok: !isRefusal,
      status: isRefusal ? said.status : 200,
      text: () => Promise.resolve(text),
      json: () => Promise.resolve(JSON.parse(text) as unknown),
    } as Response;
  }) as unknown as typeof fetch;
  return asked;
}
