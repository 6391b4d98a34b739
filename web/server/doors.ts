/** Names by which a page on this machine reaches it. */
const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]']);

/** What to do where a request names a host that is not allowed. */
export const HOST_HINT = 'Open it by the address that it printed, or add the name to KINKAJOU_HOSTS.';

/** Sent with every answer. */
export const HEADERS: Record<string, string> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'same-origin',
  'permissions-policy': 'camera=(), microphone=(), geolocation=(), payment=(), usb=()',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
};

/**
 * Whether a request's `Host` is one of ours: those of loopback, and those that KINKAJOU_HOSTS lists,
 * separated by commas. A page elsewhere can let its own name point here, and would be of the same origin as
 * all that it reads.
 */
export function isKnownHost(host: string | null, configured = process.env.KINKAJOU_HOSTS ?? ''): boolean {
  if (host === null) return false;
  const name = host.toLowerCase().replace(/:\d+$/, '');
  const names = configured
    .split(',')
    .map((one) => one.trim().toLowerCase())
    .filter(Boolean);
  return LOOPBACK.has(name) || names.includes(name);
}

/**
 * What a page may load: our own, scripts by a word that is new each time, and pictures and workers that it
 * made itself.
 */
export function contentPolicy(nonce: string, development: boolean): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${development ? " 'unsafe-eval'" : ''}`,
    // Positions of virtual rows and panels are styles of their elements.
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self'",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
}

/** Whether an address is reached from this machine alone. */
export function isLoopback(address: string | undefined): boolean {
  return (
    address !== undefined &&
    (address === 'localhost' || address === '::1' || /^127\.\d+\.\d+\.\d+$/.test(address))
  );
}
