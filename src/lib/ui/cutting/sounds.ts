import type { CutterRoll } from '$protocol/cutter';

/** Starts, ends and refusals are heard, where somebody wants them to be. */

const KEPT = 'zing-cut-sounds';
/** Hz, one after another. */
const TUNES = { start: [440, 660], done: [660, 660, 880], refused: [330, 220] } as const;
const NOTE_S = 0.14;

export interface RollSounds {
  readonly on: boolean;
  turn: () => void;
  /** Plays what has happened since the last time. */
  heard: (roll: CutterRoll) => void;
}

/** Which tune a roll calls for, seeing how it was before; nothing where nothing happened. */
export function tuneFor(before: CutterRoll | undefined, now: CutterRoll): keyof typeof TUNES | undefined {
  if (before?.id !== now.id) return undefined;
  const refused = (roll: CutterRoll) => roll.places.filter(({ state }) => state === 'refused').length;
  const isRunning = ({ state }: CutterRoll) => state === 'looking' || state === 'cutting';
  if (refused(now) > refused(before) || (now.state === 'stopped' && before.state !== 'stopped')) return 'refused';
  if (now.state === 'done' && before.state !== 'done') return 'done';
  return isRunning(now) && !isRunning(before) ? 'start' : undefined;
}

export function rollSounds(): RollSounds {
  let context: AudioContext | undefined;
  let before: CutterRoll | undefined;
  const isOn = () => typeof localStorage !== 'undefined' && localStorage.getItem(KEPT) === 'on';
  const play = (tune: keyof typeof TUNES): void => {
    const audio = (context ??= new AudioContext());
    TUNES[tune].forEach((hertz, i) => {
      const note = audio.createOscillator();
      const loud = audio.createGain();
      loud.gain.value = 0.1;
      note.frequency.value = hertz;
      note.connect(loud).connect(audio.destination);
      note.start(audio.currentTime + i * NOTE_S);
      note.stop(audio.currentTime + (i + 0.8) * NOTE_S);
    });
  };
  return {
    get on() {
      return isOn();
    },
    turn: () => {
      localStorage.setItem(KEPT, isOn() ? 'off' : 'on');
      // Browsers let a page be heard that was pressed.
      if (isOn()) play('start');
    },
    heard: (roll) => {
      const tune = tuneFor(before, roll);
      before = roll;
      if (tune && isOn()) play(tune);
    }
  };
}
