import { NO_RECORDS, type RecordChoices } from '$core/records/choices';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import type { CodeField, PictureField, TextField } from '$core/records/field';
import { newCode, newPicture, newText } from '$core/records/new-field';
import { seededRandom } from '$core/geometry/random';

/** The crews of the lantern regatta: made-up people, and the fields that their passes have. */

const FIRST =
  'Ada Bartholomäus Cleo Dagny Elías Fenna Gwendolyn Hjalti Imke Jonas Kaja Li Maximilian Nuala Ove Pilar Quirin Runa Sölvi Tamsin Una Vidar Wren Ylva Zoë'.split(
    ' '
  );
const LAST =
  'Ashdown,Brae,Cormorant,Dunlin,Eiderholm,Featherstonehaugh,Garfish,Hafsteinsdóttir,Isbister,Jolly,Kelpwright,Limpet-Morrow,Marram,Ness,Oystercatcher,Peña,Quay,Rúnarsson,Skerryvore,Tidewell,Ulver,Voe,Whimbrel,von der Ærø-Sund,Zander'.split(
    ','
  );
const BOATS = ['Kittiwake', 'Tern', 'Gannet II', 'Little Auk', 'Storm Petrel', 'Puffin of the Slip'];
const TASKS = ['helm', 'trim', 'bow', 'lantern', 'safety boat', ''];

/** The committee’s list, with semicolons and headings of its own. */
export function crewList(count = 64): string {
  const random = seededRandom(28);
  const pick = (list: readonly string[]) => list[Math.floor(random() * list.length)]!;
  const rows = Array.from({ length: count }, (_, i) =>
    [pick(FIRST), pick(LAST), pick(BOATS), pick(TASKS), String(27_001 + i)].join(';')
  );
  return ['FIRST_NAME;Last-Name;Boat name;Task;Pass No.', ...rows].join('\r\n');
}

/** Of each boat its flag, by its name: two colours, parted its own way. */
export async function burgees(): Promise<Uint8Array> {
  const [width, height] = [360, 240];
  const PARTED: [string, string, (x: number, y: number) => boolean][] = [
    ['#1d4e89', '#f4d35e', (x) => x < 0.38],
    ['#b3202c', '#ffffff', (x, y) => Math.abs(x - 0.35) < 0.09 || Math.abs(y - 0.5) < 0.13],
    ['#0b6e4f', '#fdfcdc', (x, y) => y < 0.5],
    ['#111111', '#f08a24', (x, y) => x < Math.abs(y - 0.5) * 1.6],
    ['#274c77', '#e7ecef', (x, y) => Math.hypot(x - 0.5, (y - 0.5) / 1.5) > 0.24],
    ['#5f0f40', '#fb8b24', (x, y) => x + y < 1]
  ];
  const files: Record<string, Uint8Array> = {};
  for (const [i, boat] of BOATS.entries()) {
    const [first, second, isFirst] = PARTED[i]!;
    const raw = new Uint8Array(width * height * 3);
    for (let at = 0; at < width * height; at++) {
      const colour = isFirst((at % width) / width, Math.floor(at / width) / height) ? first : second;
      for (let k = 0; k < 3; k++) raw[at * 3 + k] = Number.parseInt(colour.slice(1 + 2 * k, 3 + 2 * k), 16);
    }
    files[`burgees/${boat.toLowerCase().replaceAll(' ', '_')}.png`] = await sharp(raw, { raw: { width, height, channels: 3 } })
      .png()
      .toBuffer();
  }
  return zipSync(files);
}

const NAVY: [number, number, number, number] = [1, 0.75, 0.2, 0.35];

const name: TextField = {
  ...newText([], { x: 6, y: 17, width: 56, height: 13, turn: 0 }, '{first name} {last name}', 'Name'),
  font: 'Arimo Bold',
  wrap: true,
  along: 'left',
  colour: { is: 'inks', inks: NAVY }
};
const boat: TextField = {
  ...newText([name], { x: 6, y: 31.5, width: 56, height: 7, turn: 0 }, '{boat name}[, {task}]', 'Boat'),
  font: 'Arimo',
  size: { is: 'one for all' },
  along: 'left',
  colour: { is: 'inks', inks: NAVY }
};
const number: TextField = {
  ...newText([name, boat], { x: 6, y: 42, width: 40, height: 7, turn: 0 }, 'No. {pass no, like 00001}', 'Number'),
  font: 'Cousine Bold',
  size: { is: 'one for all' },
  along: 'left'
};
const code: CodeField = {
  ...newCode([name, boat, number], { x: 65, y: 20, width: 20, height: 20, turn: 0 }, 'LR27/{pass no}/{boat}', 'Code'),
  kind: 'Data Matrix'
};

const burgee: PictureField = {
  ...newPicture([name, boat, number, code], { x: 49, y: 41, width: 13, height: 8.7, turn: 0 }, '{boat}', 'Burgee'),
  fit: 'whole',
  along: 'right'
};

/** One name is not spelled as any column: it was matched by hand. */
export const CREW_RECORDS: RecordChoices = {
  ...NO_RECORDS,
  fields: [name, boat, number, code, burgee],
  chosen: { boat: 'Boat name' }
};
