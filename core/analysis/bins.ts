import type { Attribute } from '../attributes/attribute.ts';
import { dayNumber, isoDate } from '../attributes/calendar.ts';
import { all, type Condition, test } from '../conditions/condition.ts';

/** A stretch of values with the condition of those in it; they follow each other without overlapping. */
export interface Bin {
  readonly label: string;
  readonly condition: Condition;
}

const mostBins = 24;
const mostSingle = 16;

/**
 * Stretches that hold every number from the smallest to the largest: single ones where they are whole and few, otherwise
 * of a round width.
 */
export function numberBins(attribute: Attribute, smallest: number, largest: number): Bin[] {
  const { id } = attribute;
  const whole = attribute.type === 'number' && attribute.whole === true;
  if (whole && largest - smallest < mostSingle)
    return Array.from({ length: largest - smallest + 1 }, (_, at) => ({
      label: String(smallest + at),
      condition: test(id, 'equals', smallest + at),
    }));
  const size = Math.max(Math.abs(smallest), Math.abs(largest), 1e-250);
  if (largest - smallest <= 1e-6 * size)
    return [
      {
        label: smallest === largest ? String(smallest) : `${smallest} to ${largest}`,
        condition: test(id, 'between', smallest, largest),
      },
    ];
  const step = roundStep((largest - smallest) / mostBins, whole);
  // A quotient is rounded; the ends must be within all the same.
  const below = Math.floor(smallest / step);
  const first = tidy(below * step) > smallest ? below - 1 : below;
  const above = Math.floor(largest / step);
  const last = tidy((above + 1) * step) <= largest ? above + 1 : above;
  return Array.from({ length: last - first + 1 }, (_, at) => {
    const [from, to] = [tidy((first + at) * step), tidy((first + at + 1) * step)];
    return {
      label: whole ? `${from}–${to - 1}` : `${from} to ${to}`,
      condition: all(test(id, 'at-least', from), test(id, 'fewer-than', to)),
    };
  });
}

/** Months, or years where there are too many months, that hold every day from the first to the last. */
export function dateBins(attribute: Attribute, earliest: string, latest: string): Bin[] {
  const { id } = attribute;
  const [fromYear, fromMonth] = [Number(earliest.slice(0, 4)), Number(earliest.slice(5, 7))];
  const [toYear, toMonth] = [Number(latest.slice(0, 4)), Number(latest.slice(5, 7))];
  const months = 12 * (toYear - fromYear) + toMonth - fromMonth + 1;
  const monthStep = [1, 3, 12, 60, 120, 600].find((step) => months / step <= mostBins) ?? 1200;
  const start = 12 * fromYear + (fromMonth - 1);
  const first = Math.floor(start / monthStep);
  const last = Math.floor((start + months - 1) / monthStep);
  return Array.from({ length: last - first + 1 }, (_, at) => {
    const [begin, end] = [monthStart((first + at) * monthStep), monthStart((first + at + 1) * monthStep)];
    const lastDay = isoDate((dayNumber(end) ?? 0) - 1);
    const condition =
      attribute.type === 'date'
        ? test(id, 'between', begin, lastDay)
        : all(test(id, 'from', `${begin}T00:00`), test(id, 'before', `${end}T00:00`));
    return { label: periodLabel(begin, lastDay, monthStep), condition };
  });
}

function monthStart(months: number): string {
  const year = Math.floor(months / 12);
  return `${String(year).padStart(4, '0')}-${String((months % 12) + 1).padStart(2, '0')}-01`;
}

const monthNames = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

function periodLabel(begin: string, lastDay: string, months: number): string {
  const name = (date: string) => monthNames[Number(date.slice(5, 7)) - 1];
  const [year, lastYear] = [begin.slice(0, 4), lastDay.slice(0, 4)];
  if (months === 1) return `${name(begin)} ${year}`;
  if (months === 3) return `${name(begin)}–${name(lastDay)} ${year}`;
  return months === 12 ? year : `${year}–${lastYear}`;
}

/** The next of 1, 2, 5, 10, 20 … that is at least this. */
function roundStep(least: number, whole: boolean): number {
  const power = 10 ** Math.floor(Math.log10(least));
  const step = [1, 2, 5, 10].find((one) => one * power >= least * (1 - 1e-9)) ?? 10;
  return whole ? Math.max(1, Math.round(step * power)) : step * power;
}

/** Without the last digits that adding steps leaves behind. */
function tidy(number: number): number {
  return Number(number.toPrecision(12));
}
