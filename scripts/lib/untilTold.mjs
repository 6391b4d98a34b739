/**
 * Starts something that is stopped once, by Ctrl-C and its like, or by itself. `begin` gives back how it is
 * stopped.
 */
export async function untilTold(begin) {
  let end = async () => {};
  let stopping = false;
  async function stop(code) {
    if (stopping) return;
    stopping = true;
    await end();
    process.exit(code);
  }
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));
  try {
    end = await begin(stop);
  } catch (error) {
    process.stderr.write(`${error.message}\n`);
    await stop(1);
  }
}
