import { parse as parseWithSecondReader } from 'csv-parse/sync';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { readCsv } from './csv.ts';
import { decoded, EncodingDetector } from './encoding.ts';
import { readJsonLines } from './json-lines.ts';
import { inPieces } from './pieces.ts';
import { kindOf, refuseForeign, type Source, type SourceRecord, UnreadableFile } from './source.ts';
import { readVcards } from './vcard.ts';
import { csvRow, writerFor } from './write.ts';

async function recordsOf(source: Source): Promise<SourceRecord[]> {
  const records: SourceRecord[] = [];
  for await (const batch of source.batches) records.push(...batch);
  return records;
}

/** Records as objects by header, and the problems by row. */
async function read(source: Source) {
  const records = await recordsOf(source);
  const named = records
    .filter(({ problem }) => problem === undefined)
    .map(({ cells }) =>
      Object.fromEntries(source.headers.map((header, index) => [header, cells[index] ?? ''])),
    );
  const problems = records.flatMap(({ row, problem }) => (problem === undefined ? [] : [{ row, problem }]));
  return { named, problems };
}

const csv = async (text: string, length?: number) => read(await readCsv(inPieces(text, length)));

describe('CSV', () => {
  it('reads what RFC 4180, section 2, allows', async () => {
    const text =
      'email,name,note\r\na@example.org,"Lark, Ada","says ""hi""\r\nand bye"\r\nb@example.org,,\r\n';
    expect((await csv(text)).named).toEqual([
      { email: 'a@example.org', name: 'Lark, Ada', note: 'says "hi"\r\nand bye' },
      { email: 'b@example.org', name: '', note: '' },
    ]);
  });

  it('reads the same as a second reader, whatever is in the cells and however the text comes in pieces', async () => {
    const cell = fc.oneof(
      fc.string({ maxLength: 8 }),
      fc.constantFrom('a,b', 'a"b', '"', 'line\nbreak', 'ünïcode 🔭', 'שלום', ' padded '),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(cell, cell, cell), { minLength: 1, maxLength: 20 }),
        fc.integer({ min: 1, max: 30 }),
        async (rows, length) => {
          const plain = rows.map((row) => row.map((one) => one.replaceAll('\r', '').replace(/^'+/, '')));
          const quoted = plain.map((row) => row.map((one) => `"${one.replaceAll('"', '""')}"`).join(','));
          const text = ['one,two,three', ...quoted].join('\r\n');
          const second: string[][] = parseWithSecondReader(text, { from_line: 2 });
          const records = await recordsOf(await readCsv(inPieces(text, length)));
          const filled = second.filter((row) => row.some((one) => one.trim() !== ''));
          expect(records.map(({ cells }) => cells)).toEqual(filled);
        },
      ),
      { numRuns: 200 },
    );
  });

  it.each([',', ';', '\t', '|'])('recognises “%s” between cells', async (delimiter) => {
    const rows = ['email', 'tier', 'visits'].join(delimiter);
    const more = Array.from({ length: 5 }, (_, at) => [`p${at}@example.org`, 'Dusk', '3,5'].join(delimiter));
    const wanted = delimiter === ',' ? '3' : '3,5';
    const { named } = await csv(
      [rows, ...more.map((row) => row.replace(/,5$/, delimiter === ',' ? '' : ',5'))].join('\n'),
    );
    expect(named[4]).toEqual({ email: 'p4@example.org', tier: 'Dusk', visits: wanted });
  });

  it('numbers rows as a spreadsheet does, blank ones and breaks within cells included', async () => {
    const records = await recordsOf(
      await readCsv(inPieces('email\na@example.org\n\n"b\n@example.org"\nc@example.org', 7)),
    );
    expect(records.map(({ row }) => row)).toEqual([2, 4, 5]);
  });

  it('keeps good rows beside a row with too many cells or broken quotation marks', async () => {
    const { named, problems } = await csv('a,b\n1,2\n1,2,3\n"x"y",2\n3,4\n1,2,\n');
    expect(named.map(({ a }) => a)).toEqual(['1', '3', '1']);
    expect(problems).toEqual([
      { row: 3, problem: 'has 3 cells, but there are 2 columns' },
      { row: 4, problem: 'has quotation marks that do not match' },
    ]);
  });

  it.each([
    ['a,b,A\n1,2,3', 'Columns 1 and 3 are both called “A”. Rename one of them.'],
    ['a,,b\n1,2,3', 'Column 2 has no name in the first row.'],
    [`${Array.from({ length: 1_000_000 }, (_, at) => `c${at}`).join()}\n`, 'The file has 1,000,000 columns'],
    ['a,b\n1,"2\n3,4\n', 'A quotation mark in row 2 is opened and never closed.'],
  ])('refuses a file that can’t be understood (%#)', async (text, message) => {
    await expect(csv(text)).rejects.toThrow(message);
  });

  it('refuses a record without end before it fills the memory', async () => {
    const endless = (async function* () {
      yield 'a,b\n1,"';
      for (let piece = 0; piece < 100; piece++) yield 'x'.repeat(1024 * 1024);
    })();
    await expect(read(await readCsv(endless))).rejects.toThrow('Row 2 is longer than 16 MB');
  });
});

describe('what is no file of people', () => {
  const bytes = (text: string) => Uint8Array.from(text, (character) => character.charCodeAt(0) & 255);
  it.each([
    ['', 'The file is empty.'],
    [' \n', 'The file is empty.'],
    ['PK\u0003\u0004 a spreadsheet', 'This is a spreadsheet'],
    ['a,b\n\0,2', 'NUL'],
    ['<!doctype html>', 'web page'],
    ['[{"email": "a@example.org"}]', 'one JSON list'],
    ['%PDF-1.7', 'not a text file'],
  ])('%j is refused with its reason', (text, message) => {
    expect(() => refuseForeign(bytes(text), text)).toThrow(message);
    expect(() => refuseForeign(bytes(text), text)).toThrow(UnreadableFile);
  });

  it('is told apart by what it holds', () => {
    expect(['email\na@example.org', ' {"email":1}', 'begin:vcard\nVERSION:4.0'].map(kindOf)).toEqual([
      'csv',
      'json-lines',
      'vcard',
    ]);
  });
});

describe('encodings', () => {
  const decode = async (bytes: number[], length: number) => {
    const detector = new EncodingDetector();
    const pieces: Uint8Array[] = [];
    for (let at = 0; at < bytes.length; at += length)
      pieces.push(Uint8Array.from(bytes.slice(at, at + length)));
    for (const piece of pieces) detector.add(piece);
    const encoding = detector.end();
    let text = '';
    for await (const piece of decoded(
      (async function* () {
        yield* pieces;
      })(),
      encoding,
    ))
      text += piece;
    return { encoding, text };
  };
  const utf8 = [...new TextEncoder().encode('Zoë 🔭')];
  const utf16 = [0xff, 0xfe, ...[...Buffer.from('Zoë', 'utf16le')]];

  it.each([1, 2, 3, 100])('are recognised in pieces of %i bytes', async (length) => {
    expect(await decode(utf8, length)).toEqual({ encoding: 'utf-8', text: 'Zoë 🔭' });
    expect(await decode([0xef, 0xbb, 0xbf, ...utf8], length)).toEqual({ encoding: 'utf-8', text: 'Zoë 🔭' });
    // 0x80 and 0x9f are control characters in ISO 8859-1; in Windows-1252 they are € and Ÿ (WHATWG Encoding).
    expect(await decode([0x5a, 0x6f, 0xeb, 0x20, 0x80, 0x9f], length)).toEqual({
      encoding: 'windows-1252',
      text: 'Zoë €Ÿ',
    });
    expect(await decode(utf16, length)).toEqual({ encoding: 'utf-16le', text: 'Zoë' });
  });
});

describe('JSON Lines', () => {
  it('makes columns of keys, lists and inner objects, and leaves out lines that are none', async () => {
    const text =
      '{"email":"a@example.org","tags":["Moon","Sun"],"visits":3,"member":true}\n\n{"email":"b@example.org","home":{"city":"Tarnley"},"note":null}\nnot json\n[1]\n{"email":{"a":{"b":1}}}\n';
    const { named, problems } = await read(readJsonLines(inPieces(text, 11)));
    expect(named).toEqual([
      { email: 'a@example.org', tags: 'Moon;Sun', visits: '3', member: 'true', 'home.city': '', note: '' },
      { email: 'b@example.org', tags: '', visits: '', member: '', 'home.city': 'Tarnley', note: '' },
    ]);
    expect(problems.map(({ row, problem }) => `${row} ${problem}`)).toEqual([
      '4 is not JSON',
      '5 is not a JSON object',
      '6 has objects within objects within “email”',
    ]);
  });

  it('refuses more columns than can be imported', async () => {
    const keys = Object.fromEntries(Array.from({ length: 400 }, (_, at) => [`k${at}`, at]));
    await expect(read(readJsonLines(inPieces(JSON.stringify(keys))))).rejects.toThrow('more than 300');
    const most = Object.fromEntries(Object.entries(keys).slice(0, 300));
    expect((await read(readJsonLines(inPieces(JSON.stringify(most))))).named).toHaveLength(1);
  });
});

/** The card of RFC 6350, section 8, with its address and name as printed there. */
const example = [
  'BEGIN:VCARD',
  'VERSION:4.0',
  'FN:Simon Perreault',
  'N:Perreault;Simon;;;ing. jr,M.Sc.',
  'BDAY:--0203',
  'ANNIVERSARY:20090808T1430-0500',
  'GENDER:M',
  'LANG;PREF=1:fr',
  'LANG;PREF=2:en',
  'ORG;TYPE=work:Viagenie',
  'ADR;TYPE=work:;Suite D2-630;2875 Laurier;',
  ' Quebec;QC;G1V 2M2;Canada',
  'TEL;VALUE=uri;TYPE="work,voice";PREF=1:tel:+1-418-656-9254;ext=102',
  'TEL;VALUE=uri;TYPE="work,cell,voice,video,text":tel:+1-418-262-6501',
  'EMAIL;TYPE=work:simon.perreault@viagenie.ca',
  'GEO;TYPE=work:geo:46.772673,-71.282945',
  'TZ:-0500',
  'URL;TYPE=home:http://nomis80.org',
  'END:VCARD',
].join('\r\n');

describe('vCard', () => {
  it('reads the example of RFC 6350, section 8', async () => {
    const { named, problems } = await read(readVcards(inPieces(example, 13)));
    expect(problems).toEqual([]);
    expect(named).toEqual([
      {
        'full name': 'Simon Perreault',
        'last name': 'Perreault',
        'first name': 'Simon',
        'honorific suffix': 'ing. jr M.Sc.',
        birthday: '--0203',
        anniversary: '2009-08-08',
        gender: 'M',
        language: 'fr',
        organisation: 'Viagenie',
        'extended address': 'Suite D2-630',
        street: '2875 Laurier',
        city: 'Quebec',
        region: 'QC',
        'postal code': 'G1V 2M2',
        country: 'Canada',
        phone: '+1-418-656-9254;ext=102',
        'other phone numbers': '+1-418-262-6501',
        email: 'simon.perreault@viagenie.ca',
        'time zone': '-0500',
        'web address': 'http://nomis80.org',
      },
    ]);
  });

  it('takes the preferred of several addresses, in version 4 and in version 3 (RFC 2426, 3.3.2)', async () => {
    const cards = [
      'BEGIN:VCARD\nVERSION:4.0\nEMAIL:second@example.org\nEMAIL;PREF=1:first@example.org\nEND:VCARD',
      'BEGIN:VCARD\nVERSION:3.0\nEMAIL;TYPE=INTERNET:second@example.org\nitem1.EMAIL;type=INTERNET,pref:first@example.org\nEND:VCARD',
    ].join('\n');
    const { named } = await read(readVcards(inPieces(cards)));
    expect(named).toEqual(
      Array.from({ length: 2 }, () => ({
        email: 'first@example.org',
        'other email addresses': 'second@example.org',
      })),
    );
  });

  it('takes the preferred one, however “preferred” is written, and splits at semicolons that are not escaped', async () => {
    const card = (...lines: string[]) => ['BEGIN:VCARD', 'VERSION:3.0', ...lines, 'END:VCARD'].join('\r\n');
    const cards = [
      card('EMAIL:b@example.org', 'EMAIL;TYPE=PREF:a@example.org'),
      card('EMAIL:b@example.org', 'EMAIL;PREF:a@example.org'),
      card('EMAIL:b@example.org', 'EMAIL;TYPE="work,pref":a@example.org'),
      card('EMAIL:a@example.org', 'N:O\\;Hara\\, Quin;Ada;;Dr.\\;;'),
      // Lines go on after a tab as they do after a space (RFC 6350, 3.2).
      card('EMAIL:a@exam', '\tple.org', 'NOTE:one', ' two', '\t three'),
    ].join('\r\n');
    const { named, problems } = await read(readVcards(inPieces(cards, 7)));
    expect(problems).toEqual([]);
    expect(named.map(({ email }) => email)).toEqual(Array.from({ length: 5 }, () => 'a@example.org'));
    expect(named[3]).toMatchObject({
      'last name': 'O;Hara, Quin',
      'first name': 'Ada',
      'honorific prefix': 'Dr.;',
    });
    expect(named[4]?.note).toBe('onetwo three');
  });

  it('leaves out broken cards and keeps the ones around', async () => {
    const text =
      'stray\nBEGIN:VCARD\nVERSION:2.1\nEND:VCARD\nBEGIN:VCARD\nno colon\nEND:VCARD\nBEGIN:VCARD\nFN:Open\nBEGIN:VCARD\nVERSION:4.0\nEMAIL:a@example.org\nEND:VCARD\nBEGIN:VCARD';
    const { named, problems } = await read(readVcards(inPieces(text)));
    expect(named).toEqual([{ email: 'a@example.org' }]);
    expect(problems.map(({ row }) => row)).toEqual([1, 2, 5, 8, 14]);
  });
});

const base = { source: 'contact', description: '' } as const;
const attributes: Attribute[] = [
  { ...base, id: 'first-name', label: 'first name', type: 'text' },
  { ...base, id: 'last-name', label: 'last name', type: 'text' },
  { ...base, id: 'note', label: 'note', type: 'text' },
  { ...base, id: 'visits', label: 'visits', type: 'number' },
  {
    ...base,
    id: 'tags',
    label: 'tags',
    type: 'set',
    choices: [
      { id: 'moon', label: 'Moon, new' },
      { id: 'sun', label: 'Sun' },
    ],
    exclusiveGroups: [],
  },
];
const person = fc.record({
  email: fc.constant('ada@example.org'),
  externalId: fc.option(fc.constantFrom('7', 'x-1')),
  values: fc.record({
    'first-name': fc.constantFrom('Zoë', 'שרה', 'A;B,C\\'),
    'last-name': fc.constantFrom('Lark', '🔭 Long '.repeat(30).trim()),
    note: fc.constantFrom('=1+1', '-3', '+x', '@y', "it's", 'two\nlines', '"quoted"'),
    visits: fc.constantFrom(-5, 3.25, 0),
    tags: fc.constantFrom(['moon'], ['moon', 'sun']),
  }),
});

describe('export', () => {
  it('is read back as it was, as CSV and as JSON Lines', async () => {
    await fc.assert(
      fc.asyncProperty(person, async (one) => {
        for (const kind of ['csv', 'json-lines'] as const) {
          const writer = writerFor(kind, attributes);
          const text = (writer.start + writer.write(one)).replace('\uFEFF', '');
          const source = kind === 'csv' ? await readCsv(inPieces(text)) : readJsonLines(inPieces(text));
          const [row] = (await read(source)).named;
          expect(row?.note).toBe(one.values.note);
          expect(row?.['first name']).toBe(one.values['first-name']);
          expect(row?.visits).toBe(String(one.values.visits));
          expect(row?.id ?? '').toBe(one.externalId ?? '');
        }
      }),
      { numRuns: 60 },
    );
  });

  it.each(["'-", "''=1+1", "'-3", "'", "'plain", '-3', '=1', '+cmd', "'\tx"])(
    'gives %j back as it was',
    async (note) => {
      const written = `a,b\r\n${csvRow([note, 'x'])}`;
      expect((await csv(written)).named).toEqual([{ a: note, b: 'x' }]);
    },
  );

  it('never gives a spreadsheet a formula to run', () => {
    const dangerous = ['=1+1', '+cmd', '-cmd|x', '@SUM(A1)', '\tx', '\r=1'];
    for (const cell of dangerous) {
      const [[read] = []]: string[][] = parseWithSecondReader(csvRow([cell, 'x']));
      expect(read?.[0]).toBe("'");
    }
    expect(csvRow(['-3', '+44', 'plain'])).toBe('-3,+44,plain\r\n');
  });

  it('is read as vCard by a second reader', () => {
    fc.assert(
      fc.property(person, (one) => {
        const writer = writerFor('vcard', attributes);
        const text = writer.write(one);
        for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
        const card = new ICAL.Component(ICAL.parse(text) as unknown[]);
        expect(card.getFirstPropertyValue('version')).toBe('4.0');
        expect(card.getFirstPropertyValue('email')).toBe(one.email);
        expect(card.getFirstPropertyValue('fn')).toBe(
          `${one.values['first-name']} ${one.values['last-name']}`,
        );
        expect(card.getFirstProperty('categories')?.getValues()).toEqual(
          one.values.tags.map((tag) => (tag === 'moon' ? 'Moon, new' : 'Sun')),
        );
      }),
      { numRuns: 60 },
    );
  });

  it('says names once in a card', () => {
    const card = writerFor('vcard', attributes).write({
      email: 'a@example.org',
      externalId: null,
      values: { 'first-name': 'Ada', 'last-name': 'Lark', note: 'x' },
    });
    expect(card.split('\r\n').filter((line) => /^(X-|FN|N)/.test(line))).toEqual([
      'FN:Ada Lark',
      'N:Lark;Ada;;;',
      'X-NOTE:x',
    ]);
  });

  it('is read as vCard by our own reader', async () => {
    const writer = writerFor('vcard', attributes);
    const one = { email: 'a@example.org', externalId: '7', values: { tags: ['sun', 'moon'], visits: 4 } };
    const { named } = await read(readVcards(inPieces(writer.write(one), 5)));
    expect(named).toEqual([
      {
        'full name': 'a@example.org',
        email: 'a@example.org',
        uid: '7',
        tags: 'Moon\\, new;Sun'.replace('\\', ''),
        visits: '4',
      },
    ]);
  });
});
