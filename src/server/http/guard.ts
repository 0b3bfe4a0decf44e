/** Who may talk to the server, and what its answers allow. */

/** A page elsewhere could otherwise reach a loopback server through a name that resolves to it. */
const HOSTS = /^(localhost|127\.0\.0\.1|\[::1\])$/;

/** What every answer says. */
export const SAFE_HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'no-referrer',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
};

/**
 * What a page may load and run: its own files, and scripts that carry the nonce. Styles may be in elements, as they do
 * in lists of a million rows; scripts may not.
 */
export function contentPolicy(nonce: string): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "media-src 'self' blob:",
    "font-src 'self' data:",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-src 'none'",
    "frame-ancestors 'none'",
  ].join('; ');
}

/**
 * Why a request is refused; undefined when it is not.
 *
 * @param header the value of a header of the request, by its name in small letters
 * @param more further names of this server, with or without a port, separated by commas
 */
export function refusalOf(
  path: string,
  header: (name: string) => string | null,
  more: string | undefined,
): string | undefined {
  const host = header('host') ?? '';
  const name = host.replace(/:\d+$/, '');
  const names = (more ?? '').split(',').map((one) => one.trim().toLowerCase());
  if (!HOSTS.test(name) && ![host, name].some((one) => one !== '' && names.includes(one.toLowerCase())))
    return `The host ${host.slice(0, 100)} is not one of this server's names.`;
  const elsewhere = 'A page from elsewhere may not talk to this server.';
  const origin = header('origin');
  if (origin !== null && hostOf(origin) !== host) return elsewhere;
  // Programs send none; a browser says `none` for what someone typed.
  const site = header('sec-fetch-site');
  if (path.startsWith('/api/') && site !== null && site !== 'same-origin' && site !== 'none') return elsewhere;
  return undefined;
}

function hostOf(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}
