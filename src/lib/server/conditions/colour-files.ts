import { readFile } from 'node:fs/promises';
import { setImmediate } from 'node:timers/promises';
import { writeColours, type ColourFile, type ColourFormat } from '$core/colour/colour-files';
import { deltaE00, type Triple } from '$core/colour/lab';
import type { NamedColour } from '$core/colour/named-colour';
import { plainName } from '$core/units/names';
import type { ColourFileLook, ShopColour, TakeColours } from '$lib/named-colours';
import type { z } from 'zod';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import type { NamedColours } from './named-colours';

interface Needs {
  files: FileStore;
  intakePool: ProcessPool;
  colours: NamedColours;
}

/** The largest file of colours: 60,000 with their spectra. */
export const MOST_COLOUR_BYTES = 64e6;
const LIMITS = { seconds: 60, megabytes: 2000 };
/** Two that differ by less are one colour, written with fewer figures. */
const SAME = 0.05;
/** Of many names others have their turn after so many. */
const TURN = 500;
/** Names that have two colours are shown; of more than these the first is taken. */
const MOST_SHOWN = 300;

/** Named colours from files and to files. */
export class ColourFiles {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Reads a file, and says what it would bring. It is read in a process: files come from anywhere.
   *
   * @throws Problem with what is wrong with it
   */
  async look(bytes: Uint8Array): Promise<ColourFileLook> {
    const { files, intakePool } = this.#needs;
    const from = files.path(await files.put(bytes));
    let read: ColourFile;
    try {
      read = await intakePool.run<ColourFile>('readColourFile', { path: from }, LIMITS);
    } catch (error) {
      if (error instanceof WorkEnded)
        throw new Problem(422, 'This file breaks the program that reads it. Save it as a table (CSV) and take that.');
      throw error;
    }
    // What was read stays at hand for an hour, by its hash.
    const hash = await files.put(JSON.stringify(read));
    const { fresh, same, twice } = await this.#sorted(read);
    return {
      hash,
      kind: read.kind,
      fresh: fresh.length,
      same,
      twice: twice.slice(0, MOST_SHOWN).map(({ plain, name, choices }) => ({ plain, name, choices })),
      refused: read.refused
    };
  }

  /** Takes what was looked at. @returns how many are new or changed */
  async take({ hash, chosen, collection }: z.output<typeof TakeColours>): Promise<number> {
    const { files, colours } = this.#needs;
    let read: ColourFile;
    try {
      read = JSON.parse(await readFile(files.path(hash), 'utf8')) as ColourFile;
    } catch {
      throw new Problem(404, 'What was read of the file is not there any more. Choose the file again.');
    }
    const { fresh, twice } = await this.#sorted(read);
    const within = (colour: NamedColour): NamedColour => ({ ...colour, collection: colour.collection || collection });
    const changes = twice.flatMap(({ plain, of, here, choices }) => {
      const which = chosen[plain] ?? 0;
      const colour = choices[which]?.where === 'file' ? of[which - (here ? 1 : 0)] : undefined;
      return colour ? [{ colour, here }] : [];
    });
    const all = [...fresh.map((colour) => ({ colour, here: undefined })), ...changes];
    await colours.inSlices(all, ({ colour, here }) => {
      if (here) colours.setLab(here.id, colour.lab);
      // Somebody else may have taken the name meanwhile.
      else if (!colours.named(colour.name)) colours.insert(within(this.#withFreeNames(colour)));
    });
    return all.length;
  }

  /** Other names of a colour may be those of others: a name means one. */
  #withFreeNames(colour: NamedColour): NamedColour {
    const { colours } = this.#needs;
    return { ...colour, others: colour.others.filter((name) => !colours.named(name)) };
  }

  /** @param collection all where it is not said */
  write(format: ColourFormat, collection?: string): string {
    return writeColours(this.#needs.colours.all(collection), format, new Date());
  }

  async #sorted({ colours: read }: ColourFile) {
    const byName = new Map<string, NamedColour[]>();
    for (const colour of read) {
      const plain = plainName(colour.name);
      const known = byName.get(plain) ?? [];
      // Of the same name and colour one is enough.
      if (!known.some(({ lab }) => isSame(lab, colour.lab))) byName.set(plain, [...known, colour]);
    }
    const fresh: NamedColour[] = [];
    const twice: (ColourFileLook['twice'][number] & { here: ShopColour | undefined; of: NamedColour[] })[] = [];
    let same = 0;
    let looked = 0;
    for (const [plain, of] of byName) {
      if (++looked % TURN === 0) await setImmediate();
      const here = this.#needs.colours.named(of[0]!.name);
      if (here && of.every(({ lab }) => isSame(lab, here.lab))) same++;
      else if (!here && of.length === 1) fresh.push(of[0]!);
      else
        twice.push({
          plain,
          name: of[0]!.name,
          here,
          of,
          choices: [
            ...(here ? [{ where: 'here' as const, name: here.name, lab: here.lab }] : []),
            ...of.map(({ name, lab }) => ({ where: 'file' as const, name, lab }))
          ]
        });
    }
    return { fresh, same, twice };
  }
}

const isSame = (p: Readonly<Triple>, q: Readonly<Triple>): boolean => deltaE00(p, q) < SAME;
