import { customAlphabet } from 'nanoid';

/** Short ids of lower-case letters and digits, safe where case is folded. */
export const newId = customAlphabet('0123456789abcdefghijklmnopqrstuvwxyz', 12);
