import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import type { Printer } from './printer';
import { NOZZLE_ROWS, WEAR } from './wear';

/** The machine's own page, as its panel would be: what it is like, and what a person does to it. */
export function page({ model, media, unit, faults }: Printer): string {
  const percent = (v: number) => `${v >= 1 ? '+' : '−'}${Math.abs((v - 1) * 100).toFixed(1)} %`;
  const turned = (degrees: number) => `${degrees >= 0 ? '+' : '−'}${Math.abs(degrees).toFixed(1)}°`;
  const rows = PROCESS_CHANNELS.map(
    (ink, i) =>
      `<tr><th>${ink}</th><td>${percent(unit.gain[i] ?? 1)}</td><td>${percent(unit.strength[i] ?? 1)}</td><td>${turned(unit.hue?.[i] ?? 0)}</td><td>${unit.blocked?.[i] ?? 0} of ${NOZZLE_ROWS}</td></tr>`
  );
  const buttons = WEAR.map((what) => `<button data-wear="${what}">${WORDS[what]}</button>`);
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${escaped(model.name)}</title>
<style>body{font:15px/1.5 sans-serif;margin:2rem;max-width:40rem}td,th{padding:.2rem 1rem .2rem 0;text-align:left}button{font:inherit;margin:0 .5rem .5rem 0;padding:.3rem .8rem}</style>
<h1>${escaped(model.name)}</h1>
<p>A simulated machine with ${escaped(media.name)}, ${(media.lengthMm / 1000).toFixed(1)} m left.</p>
<table><tr><th>Ink</th><th>drops</th><th>strength</th><th>hue</th><th>nozzle rows blocked</th></tr>${rows.join('')}</table>
<h2>What happens to it</h2><p>${buttons.join('')}</p>
<p><button data-cover="${String(!faults.coverOpen)}">${faults.coverOpen ? 'Close the cover' : 'Open the cover'}</button></p>
<script>
for (const button of document.querySelectorAll('button')) button.onclick = async () => {
  const { wear, cover } = button.dataset;
  const [path, body] = wear ? ['/wear', { what: wear }] : ['/faults', { coverOpen: cover === 'true' }];
  await fetch(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  location.reload();
};
</script></html>`;
}

const WORDS: Record<(typeof WEAR)[number], string> = {
  weeks: 'Some weeks go by',
  service: 'A service',
  'new inks': 'New inks, another batch',
  'blocked nozzles': 'Nozzles get blocked'
};

const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
