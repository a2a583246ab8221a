/** Numbers and dates, read as tables have them and written in the form of an example. */

/** A number as people write it: 1234.5, 1,234.50, 1.234,50, 1 234,5; nothing where it is none. */
export function readNumber(text: string): number | undefined {
  const bare = text.replace(/[\s\u00a0\u202f’']/g, '');
  if (!/^[-+−]?[\d.,]*\d[\d.,]*$/.test(bare)) return undefined;
  const sign = /^[-−]/.test(bare) ? -1 : 1;
  const digits = bare.replace(/^[-+−]/, '');
  const last = Math.max(digits.lastIndexOf('.'), digits.lastIndexOf(','));
  if (last < 0) return sign * Number(digits);
  const mark = digits[last]!;
  const other = mark === '.' ? ',' : '.';
  const groups = digits.split(mark);
  // A comma before three last digits is of thousands, as 1,234 is; a point there is of decimals, as in 1.500.
  const areThousands = groups.length > 2 || (mark === ',' && !digits.includes(other) && /^[1-9]\d{0,2},\d{3}$/.test(digits));
  const whole = areThousands ? digits : digits.slice(0, last);
  const fraction = areThousands ? '' : digits.slice(last + 1);
  if (areThousands && digits.includes(other)) return undefined;
  const parts = whole.split(areThousands ? mark : other);
  if (parts.length > 1 && (parts.slice(1).some((part) => part.length !== 3) || parts[0]!.length > 3)) return undefined;
  const value = Number(`${parts.join('')}.${fraction === '' ? '0' : fraction}`);
  return Number.isFinite(value) ? sign * value : undefined;
}

/**
 * A number in the form of an example: as many digits at least as it has, its decimals, its marks.
 *
 * @returns nothing where the example is no number
 */
export function numberLike(value: number, like: string): string | undefined {
  const found = /^(\D*?)(\d[\d.,\u00a0\u202f ’']*)(\D*)$/u.exec(like);
  const [, before = '', figure = '', after = ''] = found ?? [];
  if (!found || readDate(like) !== undefined) return undefined;
  const trimmed = figure.replace(/[\s.,]+$/, '');
  const end = figure.slice(trimmed.length) + after;
  const last = /([.,])(\d*)$/.exec(trimmed);
  // 1,234 has a mark of thousands; 12,5 and 1,234.50 one of decimals.
  const isDecimal = last !== null && !(last[2]!.length === 3 && /^\d{1,3}([.,]\d{3})+$/.test(trimmed) && !/^0/.test(trimmed));
  const decimals = isDecimal ? last[2]!.length : 0;
  const whole = isDecimal ? trimmed.slice(0, last.index) : trimmed;
  const group = /[^\d]/u.exec(whole)?.[0];
  const least = /^0\d/.test(whole) ? whole.replace(/\D/g, '').length : 1;
  const fixed = Math.abs(value).toFixed(Math.min(20, decimals));
  const [own = '0', fraction] = fixed.split('.');
  const padded = own.padStart(least, '0');
  const grouped = group === undefined ? padded : padded.replace(/\B(?=(\d{3})+$)/g, group);
  const sign = value < 0 && Number(fixed) !== 0 ? '−' : '';
  return `${before}${sign}${grouped}${fraction === undefined ? '' : `${isDecimal ? last[1] : '.'}${fraction}`}${end}`;
}

const MONTHS = Array.from({ length: 12 }, (_, i) =>
  new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' }).format(Date.UTC(2026, i, 1))
);
const DAYS = Array.from({ length: 7 }, (_, i) =>
  new Intl.DateTimeFormat('en-GB', { weekday: 'long', timeZone: 'UTC' }).format(Date.UTC(2026, 1, 1 + i))
);

/** A day, as UTC; nothing where a text is none: 2026-12-31, 31.12.2026, 31/12/26, 31 December 2026, 31 Dec 2026. */
export function readDate(text: string): Date | undefined {
  const trimmed = text.trim().replace(/^\p{L}+,?\s+(?=\d)/u, '');
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ].*)?$/.exec(trimmed);
  if (iso) return dayOf(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const figures = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})$/.exec(trimmed);
  if (figures) return dayOf(yearOf(figures[3]!), Number(figures[2]), Number(figures[1]));
  const words = /^(\d{1,2})\.?(?:st|nd|rd|th)?\s+(\p{L}{3,})\.?,?\s+(\d{4}|\d{2})$/u.exec(trimmed);
  if (!words) return undefined;
  const month = MONTHS.findIndex((name) => name.toLowerCase().startsWith(words[2]!.toLowerCase()));
  return month < 0 ? undefined : dayOf(yearOf(words[3]!), month + 1, Number(words[1]));
}

const yearOf = (text: string): number => (text.length === 4 ? Number(text) : 2000 + Number(text));

function dayOf(year: number, month: number, day: number): Date | undefined {
  const date = new Date(Date.UTC(year, month - 1, day));
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day ? date : undefined;
}

/** Parts of the example day, Thursday 31 December 2026, and what stands for each; the longest first. */
const PARTS: readonly [RegExp, (date: Date) => string][] = [
  [/^December/i, (d) => MONTHS[d.getUTCMonth()]!],
  [/^Thursday/i, (d) => DAYS[d.getUTCDay()]!],
  [/^Dec/i, (d) => MONTHS[d.getUTCMonth()]!.slice(0, 3)],
  [/^Thu/i, (d) => DAYS[d.getUTCDay()]!.slice(0, 3)],
  [/^2026/, (d) => String(d.getUTCFullYear())],
  [/^31/, (d) => String(d.getUTCDate()).padStart(2, '0')],
  [/^12/, (d) => String(d.getUTCMonth() + 1).padStart(2, '0')],
  [/^26/, (d) => String(d.getUTCFullYear() % 100).padStart(2, '0')]
];

/** A day in the form of an example of the last day of 2026. @returns nothing where the example has none of its parts */
export function dateLike(date: Date, like: string): string | undefined {
  let made = '';
  let found = false;
  for (let at = 0; at < like.length;) {
    const part = PARTS.map(([form, say]) => ({ is: form.exec(like.slice(at))?.[0], say })).find(({ is }) => is !== undefined);
    if (part?.is) {
      found = true;
      made += part.is === part.is.toUpperCase() && /\p{L}/u.test(part.is) ? part.say(date).toUpperCase() : part.say(date);
      at += part.is.length;
    } else made += like[at++]!;
  }
  return found ? made : undefined;
}
