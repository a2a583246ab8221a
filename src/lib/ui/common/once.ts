/** Clicks that follow each other faster are one: a hand that is used to double clicks means it once. */
const SAME_CLICK_MS = 300;

/** What makes something new, done once where it is asked for again while it is done, or right after. */
export function once<Given extends unknown[]>(make: (...given: Given) => Promise<unknown>): (...given: Given) => Promise<void> {
  let isMaking = false;
  return async (...given) => {
    if (isMaking) return;
    isMaking = true;
    try {
      await make(...given);
    } finally {
      setTimeout(() => (isMaking = false), SAME_CLICK_MS);
    }
  };
}
