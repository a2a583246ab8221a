import { chromium } from '@playwright/test';
import { CHROMIUM, CHROMIUM_ARGS } from './scripts/chromium.mjs';
import { appendFileSync, writeFileSync } from 'node:fs';
const [base, seedArg, rounds, out, ...paths] = process.argv.slice(2);
let seed = Number(seedArg);
const rnd = () => { seed = (seed * 1664525 + 1013904223) >>> 0; return seed / 2 ** 32; };
const pick = (a) => a[Math.floor(rnd() * a.length)];
const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_ARGS });
writeFileSync(out, '');
const log = (s) => appendFileSync(out, s + '\n');
const forbidden = /folder|watch|printer|address|delete|print|release|rip|lay it out|lay out|back to|all |remove|put away|machine|library|key|cut elsewhere|photo|take it out|copy|export|pdf|map|next one|first one|go to|no wall/i;
const texts = ['5', '12', '350', '1.2m', '3*85+10', '0,5', '45.5', '20', '7', '100', '33'];
const state = (page) => page.evaluate(() => {
  const o = {}; const n = {};
  for (const e of document.querySelectorAll('main input, main select, main textarea')) {
    if (e.type === 'file' || e.type === 'range' || !e.offsetParent) continue;
    let l = e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.name || e.id; n[l] = (n[l] ?? 0) + 1; l += '#' + n[l];
    o[l] = e.type === 'checkbox' || e.type === 'radio' ? e.checked : e.value;
  }
  return o;
});
for (let r = 0; r < Number(rounds); r++) for (const path of paths) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 900 } });
  const trail = [];
  page.on('pageerror', (e) => log(`pageerror on ${path}: ${e.message}\n  ${trail.join('\n  ')}`));
  await page.goto(base + path); await page.waitForTimeout(1500);
  await page.route(/\/api\/(?!events)|__data\.json/, async (route) => { await new Promise((go) => setTimeout(go, rnd() * 1500)); await route.continue().catch(() => {}); });
  for (let i = 0; i < 18; i++) {
    const all = await page.locator('main input:visible:enabled, main select:visible:enabled, main button:visible:enabled').all();
    const el = pick(all); if (!el) break;
    const info = await el.evaluate((e) => ({ tag: e.tagName, type: e.type, name: e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.innerText?.slice(0, 50) || '' })).catch(() => null);
    if (!info || forbidden.test(info.name) || ['file', 'color', 'date', 'range'].includes(info.type)) continue;
    const label = `${info.tag} “${info.name.replace(/\s+/g, ' ')}”`;
    try {
      if (info.tag === 'SELECT') { const o = await el.locator('option:not([disabled])').all(); if (!o.length) continue; const v = await pick(o).getAttribute('value'); trail.push(`${label} = ${v}`); await el.selectOption(v ?? '', { timeout: 1000 }); }
      else if (info.tag === 'INPUT' && info.type !== 'checkbox' && info.type !== 'radio') { const t = pick(texts); trail.push(`${label} = ${t}`); await el.click({ timeout: 1000 }); await page.keyboard.press('Control+a'); for (const c of t) { await page.keyboard.press(c); await page.waitForTimeout(rnd() * 120); } await page.keyboard.press('Tab'); }
      else { trail.push(`${label} clicked`); await el.click({ timeout: 1000 }); }
      if (rnd() < 0.15) { trail.push('Ctrl Z'); await page.keyboard.press('Control+z'); }
    } catch { /* gone */ }
    if (!page.url().startsWith(base + path.split('?')[0])) { trail.push('left to ' + page.url()); break; }
    await page.waitForTimeout(rnd() * 500);
  }
  if (!page.url().startsWith(base + path.split('?')[0])) { await page.close(); continue; }
  await page.keyboard.press('Escape'); await page.waitForTimeout(9000);
  const before = await state(page);
  await page.unrouteAll({ behavior: 'ignoreErrors' }); await page.waitForTimeout(1500);
  await page.reload(); await page.waitForTimeout(3000);
  const after = await state(page);
  const diff = Object.keys({ ...before, ...after }).filter((k) => k in before && k in after && before[k] !== after[k]);
  const miss = Object.keys({ ...before, ...after }).filter((k) => (k in before) !== (k in after));
  if (diff.length) log(`\n## ${path} seed ${seedArg} round ${r}\n  differs: ${diff.map((k) => `${k}: ${before[k]} → ${after[k]}`).join('; ')}\n  only once: ${miss.slice(0, 8).join('; ')}\n  ${trail.join('\n  ')}`);
  await page.close();
}
log('done'); await browser.close();
