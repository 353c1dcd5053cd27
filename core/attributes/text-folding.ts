const ascii = /^[\0-\x7f]*$/;
const mark = /\p{M}/u;
/** Letters whose accents do not count. */
const accented = /[\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}]/u;
/** The dotless i is a letter of its own: upper-casing would turn it into a plain one. */
const dotless = 'ı';

/**
 * The form in which two texts are compared: texts that differ only in case, in the accents of Latin, Greek or Cyrillic
 * letters, or in how they are encoded, have the same form. Vowel signs and other marks of all other scripts count.
 *
 * Canonical decomposition, full case folding and canonical composition as in The Unicode Standard, section 3.13 (D145),
 * with the combining marks behind letters of the three scripts left out in between. Folding a folded text changes nothing.
 *
 * @example fold('Straße') === fold('STRASSE') // true
 */
export function fold(text: string): string {
  if (ascii.test(text)) return text.toLowerCase();
  let folded = '';
  let dropsMarks = false;
  for (const char of foldCase(text.normalize('NFD')).normalize('NFD')) {
    if (mark.test(char)) {
      if (!dropsMarks) folded += char;
    } else {
      dropsMarks = accented.test(char);
      folded += char;
    }
  }
  return folded.normalize('NFC');
}

/** Full case folding, one character at a time so that it depends on no neighbour (a final sigma is a sigma). */
function foldCase(text: string): string {
  let folded = '';
  for (const char of text) folded += char === dotless ? char : char.toLowerCase().toUpperCase().toLowerCase();
  return folded;
}
