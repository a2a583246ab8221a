import { NO_RECORDS, type RecordChoices } from '$core/records/choices';
import type { CodeField, TextField } from '$core/records/field';
import { newCode, newText } from '$core/records/new-field';
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

/** One name is not spelled as any column: it was matched by hand. */
export const CREW_RECORDS: RecordChoices = {
  ...NO_RECORDS,
  fields: [name, boat, number, code],
  chosen: { boat: 'Boat name' }
};
