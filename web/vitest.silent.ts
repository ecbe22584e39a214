/** In tests nobody is asked: what a test does not answer itself stays without an answer, so that nothing goes on when its
 * window is gone. */
const silent: typeof fetch = () => new Promise(() => undefined);
globalThis.fetch = silent;
