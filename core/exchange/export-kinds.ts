/** The kinds of file that people are written to. */
export const exportKinds = ['csv', 'vcard', 'json-lines'] as const;
export type ExportKind = (typeof exportKinds)[number];
