import { NO_RECORDS, type RecordChoices } from '$core/records/choices';
import type { CodeField, TextField } from '$core/records/field';
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
  id: 1,
  name: 'Name',
  is: 'text',
  place: { x: 6, y: 17, width: 56, height: 13, turn: 0 },
  content: '{first name} {last name}',
  font: 'Arimo Bold',
  size: { is: 'largest' },
  wrap: true,
  along: 'left',
  down: 'middle',
  lineSpacing: 1,
  letterSpacing: 0,
  colour: { is: 'inks', inks: NAVY },
  outline: null
};
const boat: TextField = {
  ...name,
  id: 2,
  name: 'Boat',
  place: { x: 6, y: 31.5, width: 56, height: 7, turn: 0 },
  content: '{boat name}[, {task}]',
  font: 'Arimo',
  size: { is: 'one for all' },
  wrap: false
};
const number: TextField = {
  ...boat,
  id: 3,
  name: 'Number',
  place: { x: 6, y: 42, width: 40, height: 7, turn: 0 },
  content: 'No. {pass no, like 00001}',
  font: 'Cousine Bold',
  colour: { is: 'inks', inks: [0, 0, 0, 1] }
};
const code: CodeField = {
  id: 4,
  name: 'Code',
  is: 'code',
  correction: 'middle',
  below: false,
  thinner: 0,
  kind: 'Data Matrix',
  place: { x: 65, y: 20, width: 20, height: 20, turn: 0 },
  content: 'LR27/{pass no}/{boat}',
  colour: { is: 'inks', inks: [0, 0, 0, 1] }
};

/** One name is not spelled as any column: it was matched by hand. */
export const CREW_RECORDS: RecordChoices = {
  ...NO_RECORDS,
  fields: [name, boat, number, code],
  chosen: { boat: 'Boat name' }
};
