// usage: node .x.mjs URLpath out.png width steps...
import { chromium } from '@playwright/test';
const { CHROMIUM, CHROMIUM_ARGS } = await import('./scripts/chromium.mjs');
const [path, out, size = '1280x800', ...steps] = process.argv.slice(2);
const [w, h] = size.split('x').map(Number);
const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_ARGS });
const page = await browser.newPage({ viewport: { width: w, height: h } });
page.on('pageerror', (e) => console.log('ERR', e.message));
page.on('console', (m) => m.type() === 'error' && console.log('CON', m.text()));
await page.goto(`http://127.0.0.1:4780${path}`);
await page.waitForTimeout(2500);
for (const step of steps) {
  const i = step.indexOf('='); const [what, arg] = [step.slice(0, i), step.slice(i + 1)];
  if (what === 'button') await page.getByRole('button', { name: arg, exact: true }).first().click();
  else if (what === 'tab') await page.getByRole('tab', { name: arg }).click();
  else if (what === 'click') await page.getByText(arg).first().click();
  else if (what === 'css') await page.locator(arg).first().click();
  else if (what === 'fill') { const [l, t] = arg.split('|'); await page.getByLabel(l, { exact: true }).first().fill(t); await page.keyboard.press('Enter'); }
  else if (what === 'sel') { const [l, t] = arg.split('|'); await page.getByLabel(l, { exact: true }).first().selectOption(t); }
  else if (what === 'type') await page.keyboard.type(arg);
  else if (what === 'key') await page.keyboard.press(arg);
  else if (what === 'drag') { const [x0,y0,x1,y1] = arg.split(',').map(Number); await page.mouse.move(x0,y0); await page.mouse.down(); await page.mouse.move((x0+x1)/2,(y0+y1)/2,{steps:4}); await page.mouse.move(x1,y1,{steps:4}); await page.mouse.up(); }
  else if (what === 'wait') await page.waitForTimeout(Number(arg));
  else if (what === 'scroll') { const [s, y] = arg.split('|'); await page.locator(s).first().evaluate((e, y) => (e.scrollTop = y), Number(y)); }
  await page.waitForTimeout(500);
}
await page.waitForTimeout(1500);
await page.screenshot({ path: out });
await browser.close();
