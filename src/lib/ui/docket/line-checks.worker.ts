import type { CheckInput } from '$core/checks/check';
import { checkLines } from '$core/checks/check-docket';

/** Looks at cut lines away from the screen's own thread. */
onmessage = ({ data }: MessageEvent<{ turn: number; input: CheckInput }>) => {
  postMessage({ turn: data.turn, checks: checkLines(data.input) });
};
