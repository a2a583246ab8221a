import FileImage from '@lucide/svelte/icons/file-image';
import LayoutGrid from '@lucide/svelte/icons/layout-grid';
import Layers from '@lucide/svelte/icons/layers';
import Palette from '@lucide/svelte/icons/palette';
import Scissors from '@lucide/svelte/icons/scissors';
import Settings from '@lucide/svelte/icons/store';
import Ticket from '@lucide/svelte/icons/ticket';
import Warehouse from '@lucide/svelte/icons/warehouse';

/** The rail, top to bottom; a digit goes to each. */
export const PLACES = [
  { name: 'Floor', href: '/', icon: Warehouse },
  { name: 'Artwork', href: '/artwork', icon: FileImage },
  { name: 'Dockets', href: '/dockets', icon: Ticket },
  { name: 'Runs', href: '/runs', icon: LayoutGrid },
  { name: 'Cutting', href: '/cutting', icon: Scissors },
  { name: 'Colour', href: '/colour', icon: Palette },
  { name: 'Media', href: '/media', icon: Layers },
  { name: 'Shop', href: '/shop', icon: Settings }
] as const;

export const SHORTCUTS: { keys: string; does: string }[] = [
  { keys: 'Ctrl K', does: 'Find anything, or do something' },
  ...PLACES.map(({ name }, i) => ({ keys: String(i + 1), does: `Go to ${name}` })),
  { keys: 'Ctrl Enter', does: 'The next thing: lay out, RIP, inspect' },
  { keys: 'Ctrl Z', does: 'Take back a change of a docket or run' },
  { keys: 'Ctrl Shift Z', does: 'Make it again' },
  { keys: 'Esc', does: 'Leave cropping, node editing or picking' },
  { keys: 'Arrows, + and −, 0', does: 'Move and zoom the picture that has the focus; 0 shows it whole' },
  { keys: ']  and  [', does: 'On a run’s picture: choose the next copy, or the one before; with Shift as well' },
  { keys: 'Alt and arrows', does: 'On a jig’s picture: move the chosen pocket by 0.1 mm, with Shift by 1 mm; ] and [ choose' },
  { keys: 'Page Down, Page Up', does: 'On a docket’s records: the next record, or the one before' },
  { keys: 'N', does: 'On a docket: the next check that is not fine' },
  { keys: 'M', does: 'On the Floor: move the run that has the focus to another lane' },
  { keys: '↑ ↓, Space, Shift ↑ ↓, Ctrl A', does: 'In a list: go, tick, tick a range, tick all; Enter opens' },
  { keys: 'L', does: 'Light or dark' },
  { keys: '?', does: 'This list' }
];

/** A dialog is open: keys are for it, and not for the page behind. */
export const isBehindDialog = (): boolean => document.querySelector('dialog[open]') !== null;

/** Whether a key is meant for a field and not for the program. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target;
  return target instanceof HTMLElement && (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName));
}
