import { createRequire } from 'node:module';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { seededRandom } from '$core/geometry/random';

/** Made-up artwork of a sign shop in a small ferry port before its lantern regatta, drawn by script. */

const MM = 72 / 25.4;
/** The lettering of the demo's customers, held in their files. */
const fonts = createRequire(import.meta.url);
const BOLD = fonts.resolve('@fontsource/inter/files/inter-latin-700-normal.woff');
const PLAIN = fonts.resolve('@fontsource/inter/files/inter-latin-400-normal.woff');

type Cmyk = [number, number, number, number];
type Doc = PDFKit.PDFDocument;

const NAVY: Cmyk = [100, 75, 20, 35];
const SEA: Cmyk = [75, 20, 15, 0];
const SAND: Cmyk = [4, 12, 38, 0];
const LANTERN: Cmyk = [0, 45, 90, 0];
const RED: Cmyk = [10, 95, 85, 0];
const FOAM: Cmyk = [12, 2, 4, 0];
const BLACK: Cmyk = [0, 0, 0, 100];
const WHITE: Cmyk = [0, 0, 0, 0];

interface PageSize {
  width: number;
  height: number;
  bleed: number;
  /** Adds the lines for the knife in this spot colour. */
  cut?: (doc: Doc) => void;
  cutName?: string;
  /** Spot colours by name, as the file shows them. */
  spots?: Record<string, Cmyk>;
  /** What shines, as the spot colour Varnish. */
  varnish?: (doc: Doc) => void;
}

/** A PDF page with trim and bleed boxes; `draw` has the trim's corner as its origin, in mm. */
export async function pdf(size: PageSize, draw: (doc: Doc) => void): Promise<Buffer> {
  const { width, height, bleed } = size;
  const doc = new PDFDocument({ size: [(width + 2 * bleed) * MM, (height + 2 * bleed) * MM], margin: 0 });
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise((resolve) => doc.on('end', resolve));
  const page = doc.page as unknown as { dictionary: { data: Record<string, unknown> } };
  page.dictionary.data['TrimBox'] = [bleed * MM, bleed * MM, (bleed + width) * MM, (bleed + height) * MM];
  page.dictionary.data['BleedBox'] = [0, 0, (width + 2 * bleed) * MM, (height + 2 * bleed) * MM];
  doc.save();
  doc.scale(MM).translate(bleed, bleed);
  for (const [name, cmyk] of Object.entries(size.spots ?? {})) doc.addSpotColor(name, ...cmyk);
  draw(doc);
  if (size.cut) {
    const name = size.cutName ?? 'Cut line';
    doc.addSpotColor(name, 0, 100, 0, 0);
    size.cut(doc);
    doc.lineWidth(0.1).stroke(name as unknown as PDFKit.Mixins.ColorValue);
  }
  if (size.varnish) {
    doc.addSpotColor('Varnish', 20, 10, 40, 0);
    size.varnish(doc);
    doc.fill('Varnish' as unknown as PDFKit.Mixins.ColorValue);
  }
  doc.restore();
  doc.end();
  await done;
  return Buffer.concat(chunks);
}

/** Text centred in a box, as large as fits its width. */
function line(
  doc: Doc,
  text: string,
  x: number,
  y: number,
  width: number,
  size: number,
  colour: Cmyk,
  font: string = BOLD
): void {
  doc.font(font).fontSize(size).fillColor(colour);
  const natural = doc.widthOfString(text);
  const fitted = Math.min(size, (size * width) / natural);
  doc.fontSize(fitted).text(text, x + (width - doc.widthOfString(text)) / 2, y, { lineBreak: false });
}

function lantern(doc: Doc, cx: number, cy: number, r: number, colour: Cmyk): void {
  doc.ellipse(cx, cy, r * 0.8, r).fill(colour);
  for (let i = -2; i <= 2; i++) {
    const w = Math.abs(r * 0.8 * Math.sin((i * Math.PI) / 6));
    if (w > 0)
      doc
        .ellipse(cx, cy, w, r)
        .lineWidth(r * 0.035)
        .stroke([0, 60, 100, 10] as unknown as PDFKit.Mixins.ColorValue);
  }
  doc.rect(cx - r * 0.3, cy - r * 1.12, r * 0.6, r * 0.16).fill(NAVY);
  doc.rect(cx - r * 0.3, cy + r * 0.96, r * 0.6, r * 0.16).fill(NAVY);
  doc
    .moveTo(cx, cy - r * 1.12)
    .lineTo(cx, cy - r * 1.5)
    .lineWidth(r * 0.05)
    .stroke(NAVY);
}

function waves(doc: Doc, x: number, y: number, width: number, rows: number, pitch: number, colour: Cmyk): void {
  for (let row = 0; row < rows; row++) {
    doc.moveTo(x, y + row * pitch);
    for (let at = x; at < x + width; at += pitch * 2) {
      doc.quadraticCurveTo(at + pitch / 2, y + row * pitch - pitch * 0.5, at + pitch, y + row * pitch);
      doc.quadraticCurveTo(at + pitch * 1.5, y + row * pitch + pitch * 0.5, at + pitch * 2, y + row * pitch);
    }
    doc.lineWidth(pitch * 0.14).stroke(colour);
  }
}

/** A round berth marker with a contour around it and an eyelet hole within. */
export const berthMarker = (number = 9) =>
  pdf(
    {
      width: 90,
      height: 90,
      bleed: 3,
      cut: (doc) => doc.circle(45, 45, 43).circle(45, 8, 2.5)
    },
    (doc) => {
      doc.rect(-3, -3, 96, 96).fill(NAVY);
      doc.circle(45, 45, 38).fill(FOAM);
      doc.circle(45, 45, 35).lineWidth(1.2).stroke(NAVY);
      waves(doc, 17, 66, 52, 2, 4, SEA);
      line(doc, 'BERTH', 20, 20, 50, 11, NAVY);
      line(doc, String(number), 20, 29, 50, 42, RED);
    }
  );

/** A board of the regatta's flags, in the ferry company's colours by name; one name has a letter wrong, one nobody knows. */
export const flagBoard = () => {
  const spots: Record<string, Cmyk> = {
    'Ferry Red coated': [5, 90, 75, 5],
    'Lantern Amber': [0, 40, 95, 0],
    'Kelp Gren': [80, 30, 75, 15],
    'Skipper Plum': [55, 90, 25, 10]
  };
  const ink = (name: string) => name as unknown as PDFKit.Mixins.ColorValue;
  return pdf({ width: 420, height: 150, bleed: 3, spots }, (doc) => {
    doc.rect(-3, -3, 426, 156).fill(FOAM);
    Object.keys(spots).forEach((name, i) => {
      const x = 18 + i * 100;
      doc.rect(x, 20, 84, 56).fill(ink(name));
      if (i % 2 === 0) doc.rect(x + 24, 20, 14, 56).fill(FOAM);
      else doc.rect(x, 41, 84, 14).fill(FOAM);
      // Paler ones of the same, as a row of pennants.
      for (let step = 1; step <= 4; step++) {
        const left = x + (step - 1) * 21;
        doc
          .moveTo(left, 92)
          .lineTo(left + 19, 92)
          .lineTo(left + 9.5, 118)
          .closePath()
          .fillOpacity(step / 4)
          .fill(ink(name));
      }
      doc.fillOpacity(1);
    });
    line(doc, 'LANTERN REGATTA', 60, 126, 300, 15, NAVY);
  });
};

/** A sail-shaped sticker for dinghies. */
export const sailSticker = () =>
  pdf(
    {
      width: 120,
      height: 160,
      bleed: 3,
      cutName: 'Kiss Cut',
      cut: (doc) =>
        doc
          .moveTo(60, 6)
          .bezierCurveTo(100, 50, 114, 100, 110, 132)
          .lineTo(12, 138)
          .bezierCurveTo(36, 100, 52, 50, 60, 6)
          .closePath()
    },
    (doc) => {
      doc.rect(-3, -3, 126, 166).fill(WHITE);
      doc.moveTo(60, 2).bezierCurveTo(104, 50, 118, 100, 114, 136).lineTo(6, 142).bezierCurveTo(32, 100, 48, 50, 60, 2).fill(SEA);
      doc
        .moveTo(60, 20)
        .bezierCurveTo(92, 60, 104, 100, 102, 120)
        .lineTo(28, 124)
        .bezierCurveTo(44, 92, 56, 54, 60, 20)
        .fill(SAND);
      lantern(doc, 68, 88, 18, LANTERN);
      line(doc, 'REGATTA 27', 28, 122, 70, 9, NAVY);
    }
  );

export const chandleryWindow = () =>
  pdf({ width: 1200, height: 800, bleed: 0 }, (doc) => {
    doc.rect(0, 0, 1200, 800).fill(FOAM);
    waves(doc, 0, 600, 1190, 6, 32, SEA);
    doc.rect(0, 0, 1200, 110).fill(NAVY);
    line(doc, 'GULLWAY CHANDLERY', 40, 24, 1120, 76, WHITE);
    line(doc, 'rope · brass · oilskins · charts', 200, 150, 800, 52, NAVY, PLAIN);
    for (let i = 0; i < 7; i++) lantern(doc, 130 + i * 157, 390 + (i % 2) * 34, 62, i % 3 === 0 ? RED : LANTERN);
  });

/** A pass for crews, cut out with round corners; who it is for is printed on it from a list. */
export const crewPass = () =>
  pdf({ width: 90, height: 55, bleed: 3, cut: (doc) => doc.roundedRect(0, 0, 90, 55, 4) }, (doc) => {
    doc.rect(-3, -3, 96, 61).fill(FOAM);
    doc.rect(-3, -3, 96, 16).fill(NAVY);
    waves(doc, -3, 52, 94, 2, 4, SEA);
    line(doc, 'LANTERN REGATTA 27', 6, 3, 58, 7, WHITE);
    lantern(doc, 78, 8, 5, LANTERN);
    doc.rect(64, 19, 22, 22).fill(WHITE);
  });

/** For the shop's door, with nothing behind it: what is not drawn stays glass. */
export const windowSticker = () =>
  pdf({ width: 420, height: 300, bleed: 0 }, (doc) => {
    doc.circle(150, 150, 130).fill(SEA);
    waves(doc, 34, 190, 230, 4, 14, NAVY);
    lantern(doc, 150, 128, 52, LANTERN);
    line(doc, 'OPEN', 284, 92, 124, 44, RED);
    line(doc, 'till the last ferry', 284, 150, 124, 16, NAVY, PLAIN);
    doc.rect(284, 184, 124, 6).fill(SAND);
  });

/** A sign for a dark board, its lantern and rim to shine. */
export const slipSign = () =>
  pdf(
    {
      width: 600,
      height: 400,
      bleed: 0,
      varnish: (doc) => doc.ellipse(140, 196, 76, 95).circle(520, 330, 34)
    },
    (doc) => {
      doc.roundedRect(14, 14, 572, 372, 26).lineWidth(6).stroke(SAND);
      lantern(doc, 140, 196, 95, LANTERN);
      line(doc, 'THE SLIP', 250, 96, 310, 92, WHITE);
      line(doc, 'lanterns lit at dusk', 250, 206, 310, 36, SAND, PLAIN);
      waves(doc, 250, 300, 300, 2, 22, SEA);
      doc.circle(520, 330, 34).fill(RED);
    }
  );

export const pierBanner = () =>
  pdf({ width: 3200, height: 900, bleed: 0 }, (doc) => {
    const sky = doc.linearGradient(0, 0, 0, 900);
    const stops: [number, Cmyk][] = [
      [0, [95, 80, 30, 40]],
      [0.65, [40, 60, 20, 0]],
      [1, [0, 45, 80, 0]]
    ];
    stops.forEach(([at, colour]) => sky.stop(at, colour as unknown as string));
    doc.rect(0, 0, 3200, 900).fill(sky);
    for (let i = 0; i < 14; i++) lantern(doc, 120 + i * 228, 240 + Math.sin(i * 0.9) * 70, 84, i % 4 === 0 ? RED : LANTERN);
    waves(doc, 0, 800, 3190, 3, 44, [80, 40, 10, 10]);
    line(doc, 'LANTERN REGATTA', 260, 420, 2680, 250, WHITE);
    line(doc, 'Gullway harbour · last Saturday of August · from dusk', 400, 670, 2400, 84, SAND, PLAIN);
  });

/** A menu with a photograph-like picture and small black text. */
export async function menuBoard(): Promise<Buffer> {
  const picture = await harbourPicture(1500, 640);
  return pdf({ width: 600, height: 900, bleed: 5 }, (doc) => {
    doc.rect(-5, -5, 610, 910).fill(SAND);
    doc.image(picture, -5, -5, { width: 610, height: 262 });
    line(doc, 'The Tea Room on the Slip', 40, 290, 520, 52, NAVY);
    const items: [string, string][] = [
      ['Pot of harbour blend', '3.20'],
      ['Saffron bun, warm', '2.80'],
      ['Crab toast with dill', '9.40'],
      ['Kelp and potato soup', '6.90'],
      ['Ginger parkin', '3.10'],
      ['Ferryman’s breakfast', '11.50']
    ];
    items.forEach(([name, price], i) => {
      const y = 390 + i * 66;
      doc.font(PLAIN).fontSize(30).fillColor(BLACK).text(name, 60, y, { lineBreak: false });
      doc.text(price, 550 - doc.widthOfString(price), y, { lineBreak: false });
      doc
        .moveTo(60, y + 40)
        .lineTo(550, y + 40)
        .lineWidth(0.6)
        .stroke(SEA);
    });
    doc
      .fontSize(14)
      .fillColor(BLACK)
      .text('Tell us of allergies. Open from the first ferry to the last.', 60, 826, { lineBreak: false });
  });
}

export const gangwayHoarding = () =>
  pdf({ width: 1800, height: 1000, bleed: 0 }, (doc) => {
    doc.rect(0, 0, 1800, 1000).fill([0, 8, 85, 0]);
    for (let i = -6; i < 22; i++)
      doc
        .moveTo(i * 120, 1000)
        .lineTo(i * 120 + 60, 1000)
        .lineTo(i * 120 + 160, 860)
        .lineTo(i * 120 + 100, 860)
        .fill(BLACK);
    line(doc, 'MIND THE GANGWAY', 80, 160, 1640, 190, BLACK);
    line(doc, 'It moves with the tide', 80, 420, 1640, 120, RED, PLAIN);
    doc.moveTo(560, 760).lineTo(1240, 640).lineWidth(26).stroke(NAVY);
    doc.circle(560, 770, 34).fill(NAVY);
    doc.circle(1240, 650, 34).fill(NAVY);
  });

/** A harbour wall of 9 × 2.6 m at a tenth: lanterns over the water, and lettering where equal panels would have their seams. */
export const slipwayWall = () =>
  pdf({ width: 900, height: 260, bleed: 3 }, (doc) => {
    const random = seededRandom(9);
    const night = doc.linearGradient(0, 0, 0, 190);
    night.stop(0, NAVY as unknown as string).stop(1, [55, 15, 20, 0] as unknown as string);
    doc.rect(-3, -3, 906, 193).fill(night);
    doc.rect(-3, 190, 906, 73).fill([85, 45, 20, 20]);
    for (let i = 0; i < 46; i++) {
      const [x, y] = [random() * 900, 200 + random() * 54];
      doc.rect(x, y, 10 + random() * 26, 0.9).fill(SEA);
    }
    line(doc, 'LANTERN', 58, 34, 330, 64, SAND);
    line(doc, 'REGATTA', 500, 34, 340, 64, SAND);
    line(doc, 'From the slip to the light, the last night of August', 250, 118, 400, 15, FOAM, PLAIN);
    for (const [x, size] of [
      [92, 1],
      [236, 0.7],
      [316, 1.1],
      [452, 0.8],
      [585, 1.2],
      [668, 0.7],
      [790, 1]
    ] as const) {
      const y = 196;
      doc
        .moveTo(x - 30 * size, y)
        .lineTo(x + 30 * size, y)
        .lineTo(x + 21 * size, y + 14 * size)
        .lineTo(x - 21 * size, y + 14 * size)
        .fill(RED);
      doc.rect(x - 0.8, y - 46 * size, 1.6, 46 * size).fill(BLACK);
      for (const [dx, dy] of [
        [-12, -16],
        [12, -16],
        [0, -34]
      ] as const) {
        doc.circle(x + dx * size, y + dy * size, 6.4 * size).fill(LANTERN);
        doc.circle(x + dx * size, y + dy * size, 3 * size).fill(SAND);
      }
    }
  });

/** A soft evening over water, as pixels: sky, a low sun, and its light on small waves. */
export async function harbourPicture(width: number, height: number): Promise<Buffer> {
  const random = seededRandom(27);
  const raw = Buffer.alloc(width * height * 3);
  const horizon = height * 0.62;
  const sun = { x: width * 0.66, y: horizon * 0.86, r: height * 0.11 };
  const put = (at: number, colour: [number, number, number]) =>
    colour.forEach((v, i) => (raw[at + i] = Math.min(255, Math.max(0, v))));
  for (let y = 0; y < height; y++) {
    const wave = random();
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 3;
      const grain = (random() - 0.5) * 6;
      const t = Math.min(1, y / horizon);
      const glow = Math.exp(-(((x - sun.x) / (width * 0.3)) ** 2)) * t;
      const sky: [number, number, number] = [70 + 150 * t + 40 * glow, 90 + 70 * t + 40 * glow, 150 - 40 * t];
      if (y < horizon) {
        const inSun = Math.hypot(x - sun.x, y - sun.y) < sun.r;
        put(at, inSun ? [255, 226, 160] : [sky[0] + grain, sky[1] + grain, sky[2] + grain]);
      } else {
        const depth = (y - horizon) / (height - horizon);
        const path = Math.exp(-(((x - sun.x) / (width * (0.05 + 0.2 * depth))) ** 2));
        const ripple = Math.sin(x / (18 + 60 * depth) + y * 0.7 + wave * 5) > 0.35 ? 1 : 0;
        put(at, [
          40 + 120 * path * ripple + 60 * (1 - depth) + grain,
          74 + 80 * path * ripple + 30 * (1 - depth) + grain,
          104 + 20 * path + grain
        ]);
      }
    }
  }
  return sharp(raw, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 88 })
    .withMetadata({ density: 150 })
    .toBuffer();
}

/** As a customer sends it who never printed: no bleed, bright screen colours, a soft picture, a mistyped cut line, small type. */
export async function lanternPoster(): Promise<Buffer> {
  const picture = await harbourPicture(320, 200);
  return pdf({ width: 420, height: 594, bleed: 0 }, (doc) => {
    doc.rect(0, 0, 420, 594).fill('#160a46');
    doc.image(picture, 60, 330, { width: 300, height: 188 });
    const glow = ['#00ff66', '#ff2bd6', '#00e5ff', '#ffe600', '#ff5a00'];
    for (let i = 0; i < 5; i++) {
      const [x, y, r] = [62 + i * 74, 200 + (i % 2) * 46, 30];
      doc.ellipse(x, y, r * 0.8, r).fill(glow[i] ?? '#ffffff');
      doc.rect(x - 9, y - r - 5, 18, 5).fill('#160a46');
    }
    doc.addSpotColor('Lantern glow', 0, 40, 100, 0);
    doc.circle(210, 560, 14).fill('Lantern glow' as unknown as PDFKit.Mixins.ColorValue);
    doc.font(BOLD).fontSize(58).fillColor('#ffffff').text('LANTERN', 48, 40, { lineBreak: false });
    doc.text('NIGHT', 48, 96, { lineBreak: false });
    doc.font(PLAIN).fontSize(16).fillColor('#ffe600').text('Slipway, Saturday from dusk', 250, 128, { lineBreak: false });
    doc
      .font(PLAIN)
      .fontSize(2.4)
      .fillColor('#ffffff')
      .text('Bring a lantern without a naked flame. Dogs on leads. Printed for the regatta committee.', 60, 524, {
        lineBreak: false
      });
    doc.addSpotColor('Cutt line', 0, 100, 0, 0);
    doc
      .roundedRect(6, 6, 408, 582, 12)
      .lineWidth(0.1)
      .stroke('Cutt line' as unknown as PDFKit.Mixins.ColorValue);
  });
}

/** Of a net loft’s long wall, as one stands before it: 9 m of it are 1,800 px wide, and it stands on y = 940. */
export const netLoftPhoto = (): Promise<Buffer> => {
  const boards = Array.from({ length: 16 }, (_, i) => `<path d="M240 ${392 + i * 34}H2160" stroke="#7d7467" stroke-width="3"/>`);
  return sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="2400" height="1100" viewBox="0 0 2400 1100">
      <rect width="2400" height="1100" fill="#b9c7d0"/>
      <path d="M0 300Q600 180 1200 260T2400 220V0H0Z" fill="#d5dee3"/>
      <path d="M200 380L1200 120L2200 380Z" fill="#4b4a4d"/>
      <rect x="240" y="372" width="1920" height="568" fill="#988d7c"/>${boards.join('')}
      <rect x="1584" y="532" width="192" height="408" fill="#33413f"/>
      <rect x="1746" y="730" width="10" height="40" fill="#c9b26a"/>
      <circle cx="798" cy="590" r="46" fill="#27363f" stroke="#d8d2c4" stroke-width="8"/>
      <path d="M0 940H2400V1100H0Z" fill="#6e6a63"/>
      <path d="M0 1010H2400" stroke="#817d75" stroke-width="6"/>
      <rect x="90" y="800" width="90" height="140" fill="#5c4632"/>
      <path d="M2230 940V620M2200 660H2260" stroke="#3b3b3b" stroke-width="14"/>
    </svg>`)
  )
    .jpeg({ quality: 88 })
    .toBuffer();
};

/** A gull on nothing: pixels with transparency, for a contour of its own. */
export const gullSticker = (): Promise<Buffer> =>
  sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="2400" height="1800" viewBox="0 0 240 180">
      <path d="M20 96C44 58 82 46 112 72C120 44 148 26 196 22C178 44 170 62 152 84C176 86 196 98 214 122C184 116 160 118 140 124C128 148 104 160 78 158C88 148 92 138 90 126C62 128 40 118 20 96Z" fill="#f4f6f7" stroke="#22304a" stroke-width="3"/>
      <path d="M112 72C126 78 142 82 152 84" fill="none" stroke="#22304a" stroke-width="2.4"/>
      <path d="M196 22C186 44 176 58 152 84C150 70 160 46 196 22Z" fill="#8d9aa6"/>
      <path d="M20 96L4 92L20 88Z" fill="#f2a413" stroke="#22304a" stroke-width="2"/>
      <circle cx="40" cy="86" r="4" fill="#22304a"/>
      <ellipse cx="60" cy="172" rx="30" ry="5" fill="#2f7fa8"/>
    </svg>`)
  )
    .png()
    .withMetadata({ density: 600 })
    .toBuffer();

export const buoyTagSvg =
  (): string => `<svg xmlns="http://www.w3.org/2000/svg" xmlns:inkscape="http://www.inkscape.org/namespaces/inkscape" width="60mm" height="100mm" viewBox="0 0 60 100">
  <rect width="60" height="100" fill="#c9a24a"/>
  <rect x="4" y="4" width="52" height="92" rx="6" fill="none" stroke="#6b4f16" stroke-width="1.4"/>
  <circle cx="30" cy="14" r="4" fill="#ffffff"/>
  <text x="30" y="48" font-family="Helvetica" font-size="20" font-weight="bold" text-anchor="middle" fill="#3a2a08">B 41</text>
  <text x="30" y="62" font-family="Helvetica" font-size="4.8" text-anchor="middle" fill="#3a2a08">GULLWAY MOORINGS</text>
  <g inkscape:label="Through Cut" fill="#000">
    <rect x="2" y="2" width="56" height="96" rx="8"/>
    <circle cx="30" cy="14" r="2.5"/>
  </g>
</svg>`;
