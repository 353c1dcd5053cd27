/** What may differ in a document: words and blocks, the title, the address, who may open it, what the whole site has. */
export const documentParts = ['content', 'title', 'address', 'access', 'site'] as const;
export type DocumentPart = (typeof documentParts)[number];
