import { medianTime } from './result.ts';

/**
 * A stream through raw columns of the same content once: a byte for a choice or a yes or no, a word for a set or a text,
 * eight bytes for a number, four for a date; 61 bytes a contact. One loop a kind of column, as each is fastest.
 */
export function readTime(count: number): number {
  const bytes = Array.from({ length: 5 }, () => new Uint8Array(count).fill(3));
  const words = Array.from({ length: 4 }, () => new Uint32Array(count).fill(3));
  const dates = Array.from({ length: 2 }, () => new Int32Array(count).fill(3));
  const numbers = Array.from({ length: 4 }, () => new Float64Array(count).fill(3));
  let sum = 0;
  const time = medianTime(() => {
    for (const column of bytes) sum += sumOfBytes(column);
    for (const column of words) sum += sumOfWords(column);
    for (const column of dates) sum += sumOfDates(column);
    for (const column of numbers) sum += sumOfNumbers(column);
  }, 15);
  if (sum === 0) throw new Error('nothing was read');
  return time;
}

function sumOfBytes(column: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < column.length; at++) sum = (sum + (column[at] ?? 0)) | 0;
  return sum;
}

function sumOfWords(column: Uint32Array): number {
  let sum = 0;
  for (let at = 0; at < column.length; at++) sum = (sum + (column[at] ?? 0)) | 0;
  return sum;
}

function sumOfDates(column: Int32Array): number {
  let sum = 0;
  for (let at = 0; at < column.length; at++) sum = (sum + (column[at] ?? 0)) | 0;
  return sum;
}

function sumOfNumbers(column: Float64Array): number {
  let sum = 0;
  for (let at = 0; at < column.length; at++) sum += column[at] ?? 0;
  return sum;
}
