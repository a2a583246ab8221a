/** Who may speak with the server and with stand-ins: their own pages, and programs on this machine. */

/** Names that lead to this machine whatever a name server says. */
const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]']);

const hostOf = (authority: string): string => authority.replace(/:\d+$/, '').toLowerCase();

/**
 * Why a request is not answered; nothing when it is. A page elsewhere can have its own name lead to this machine, so that a
 * browser takes the two for one: the name that was asked for tells them apart. Browsers say themselves from where a page asks.
 *
 * @param more names beside those of this machine that it may be asked by
 * @see https://www.w3.org/TR/fetch-metadata/
 */
export function refusal(
  method: string,
  path: string,
  headers: { get(name: string): string | null },
  more: readonly string[] = []
): string | undefined {
  const host = headers.get('host') ?? '';
  const name = hostOf(host);
  if (!LOOPBACK.has(name) && !more.includes(name))
    return `This server is not known as ${name.slice(0, 100) || 'nothing'}. Open it as 127.0.0.1 or localhost.`;
  const site = headers.get('sec-fetch-site');
  const isElsewhere = site === 'cross-site' || site === 'same-site';
  // A link that leads here only opens a page.
  const opensPage =
    method === 'GET' &&
    headers.get('sec-fetch-mode') === 'navigate' &&
    headers.get('sec-fetch-dest') === 'document' &&
    !path.startsWith('/api');
  if (isElsewhere && !opensPage) return 'Requests from other sites are not taken.';
  const origin = headers.get('origin');
  if (origin !== null && !isOwn(origin, host)) return 'Requests from other sites are not taken.';
  return undefined;
}

function isOwn(origin: string, host: string): boolean {
  try {
    return new URL(origin).host === host.toLowerCase();
  } catch {
    return false;
  }
}
