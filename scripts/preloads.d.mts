import type { Plugin } from 'vite';

export const preloadsFile: string;
export function preloads(): Plugin;
