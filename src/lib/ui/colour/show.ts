import type { Chart } from '$lib/calibration';
import { labToXyz, xyzToSrgb, type Triple } from '$core/colour/lab';

/** What is read of a chart can be taken: nothing of it is wrong, and it tells how the condition prints now. */
export const isGood = (chart: Pick<Chart, 'findings' | 'isOld'> | undefined): boolean =>
  chart !== undefined && chart.findings.length === 0 && !chart.isOld;

/** How inks are drawn in charts: dark enough on light, light enough on dark. */
export const INK_LINES = { cyan: '#1590c4', magenta: '#d1338a', yellow: '#c9a400', black: '#808080' } as const;

/** L*a*b* as a colour of the screen, clipped where the screen ends. */
export function screenColour(lab: Readonly<Triple>): string {
  return `rgb(${xyzToSrgb(labToXyz(lab))
    .map((v) => Math.round(v * 255))
    .join(' ')})`;
}

export const day = (at: number): string =>
  new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

export const percent = (share: number, digits = 0): string => `${(share * 100).toFixed(digits)} %`;

let sound: AudioContext | undefined;

/** A short tone: high for a strip that was read, low for one to read again. */
export function tone(good: boolean): void {
  try {
    sound ??= new AudioContext();
    const oscillator = sound.createOscillator();
    const volume = sound.createGain();
    oscillator.frequency.value = good ? 880 : 220;
    volume.gain.setValueAtTime(0.08, sound.currentTime);
    volume.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + (good ? 0.15 : 0.5));
    oscillator.connect(volume).connect(sound.destination);
    oscillator.start();
    oscillator.stop(sound.currentTime + 0.5);
  } catch {
    // Without sound the words on the screen say the same.
  }
}
