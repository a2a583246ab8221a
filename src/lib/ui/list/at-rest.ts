import type { Attachment } from 'svelte/attachments';

/** How long a list stays where it is until its pictures are asked for, ms. */
const REST_MS = 120;
/** Addresses of pictures that were asked for: the browser has them. */
const asked = new Set<string>();
let scrolledAt = -Infinity;
if (typeof document !== 'undefined')
  document.addEventListener('scroll', () => (scrolledAt = performance.now()), { capture: true, passive: true });

/**
 * Shows a picture of a list once the list has stayed for a moment: one that rushes by is not drawn by the server, and a page
 * that is just being made is usable first.
 */
export const atRest =
  (src: string): Attachment<HTMLImageElement> =>
  (picture) => {
    const show = () => {
      asked.add(src);
      // The same again would be loaded again.
      if (picture.getAttribute('src') !== src) picture.src = src;
    };
    if (asked.has(src)) return show();
    // A row whose place another has taken: no picture is better than that of the one before.
    picture.removeAttribute('src');
    let timer: ReturnType<typeof setTimeout>;
    const wait = (ms: number) => {
      timer = setTimeout(() => {
        const rest = scrolledAt + REST_MS - performance.now();
        if (rest > 0) wait(rest);
        else show();
      }, ms);
    };
    wait(REST_MS);
    return () => clearTimeout(timer);
  };
