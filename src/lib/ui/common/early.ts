/** Files that were chosen before the page’s script was there are not lost: the change is told again. */
export function early(input: HTMLInputElement): void {
  // Nor are they sent again when the page is loaded anew: a browser may keep what was chosen.
  input.autocomplete = 'off';
  if (input.files && input.files.length > 0) input.dispatchEvent(new Event('change', { bubbles: true }));
}
