import { nanoid } from 'nanoid';

/** An id for a new part of a document. */
export const newId = (): string => nanoid(12);
