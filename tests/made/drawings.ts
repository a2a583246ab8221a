import { seededRandom } from '$core/geometry/random';

/** Drawings of some 50 kB each, as drawing programs write them: layers, gradients, clips, lettering, hundreds of curves. */
export function drawingsOf50kB(count: number): string[] {
  return Array.from({ length: count }, (_, i) => drawing(i + 1));
}

function drawing(seed: number): string {
  const random = seededRandom(seed);
  const figure = (most: number) => (random() * most).toFixed(3);
  const colour = () =>
    `#${Math.floor(random() * 0xffffff)
      .toString(16)
      .padStart(6, '0')}`;
  const gradients = Array.from({ length: 12 }, (_, i) => {
    const stops = `<stop offset="0" stop-color="${colour()}"/><stop offset="1" style="stop-color:${colour()};stop-opacity:${figure(1)}"/>`;
    return i % 2
      ? `<radialGradient id="g${i}" cx="${figure(1)}" cy="${figure(1)}" r="${figure(1)}">${stops}</radialGradient>`
      : `<linearGradient id="g${i}" x1="0" x2="${figure(1)}" gradientTransform="rotate(${figure(90)})">${stops}</linearGradient>`;
  });
  const shapes = Array.from({ length: 220 }, (_, i) => {
    const curves = Array.from(
      { length: 3 },
      () => `c ${Array.from({ length: 6 }, () => (random() * 80 - 40).toFixed(3)).join(' ')}`
    );
    const paint = i % 4 === 0 ? `url(#g${i % 12})` : colour();
    return `<path style="fill:${paint};stroke:${colour()};stroke-width:${figure(3)};opacity:${(0.4 + random() * 0.6).toFixed(2)}" d="M ${figure(600)} ${figure(400)} ${curves.join(' ')} z"/>`;
  });
  return `<?xml version="1.0" encoding="UTF-8" standalone="no"?>
<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400" viewBox="0 0 600 400">
<defs>${gradients.join('')}<clipPath id="c"><circle cx="300" cy="200" r="${100 + random() * 150}"/></clipPath></defs>
<g id="layer1">${shapes.slice(0, 110).join('\n')}</g>
<g id="layer2" clip-path="url(#c)">${shapes.slice(110).join('\n')}</g>
<text x="20" y="380" font-family="Arial" font-size="24">Berth ${seed}, Łódź pier</text>
</svg>`;
}
