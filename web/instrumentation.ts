/**
 * Runs once before the server takes requests: what people dropped is decoded in threads that can be stopped.
 */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { checkAddress } = await import('./server/address.ts');
  checkAddress(process.argv);
  const [{ installGuard }, { ThreadGuard }, { limitsFromEnvironment }, { guardThread }] = await Promise.all([
    import('@kinkajou/core/guard/guard'),
    import('@kinkajou/core/guard/threads'),
    import('@kinkajou/core/parcel/limits'),
    import('./server/env.ts'),
  ]);
  installGuard(new ThreadGuard(guardThread(), limitsFromEnvironment()));
}
