const AGAIN_MS = 1000;

/** What screens are made of: their data, as the framework asks for it, and the Floor. */
const isOfScreen = (asked: RequestInfo | URL, here: string): boolean => {
  const { origin, pathname } = new URL(asked instanceof Request ? asked.url : asked, here);
  return origin === new URL(here).origin && (pathname.endsWith('/__data.json') || pathname === '/api/floor');
};

/**
 * What a screen asks for while the server goes away is asked again until somebody answers. The framework would leave the
 * page where its data cannot be had, for one that the browser has nothing to show of. All else fails as it does.
 *
 * @param plain the browser's own
 * @param here the address that others are relative to
 */
export const askingAgain =
  (plain: typeof fetch, here: string): typeof fetch =>
  async (asked, how) => {
    for (;;) {
      try {
        return await plain(asked, how);
      } catch (error) {
        if (!isOfScreen(asked, here) || how?.signal?.aborted) throw error;
      }
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  };
