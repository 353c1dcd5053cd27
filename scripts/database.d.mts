interface Database {
  /** The address of a database, by its name. */
  url(name: string): string;
  stop(): Promise<void>;
}
export function startDatabase(folder: string): Promise<Database & { readonly found: boolean }>;
export function keepDatabase(folder: string): Promise<Database>;
export function isFree(port: number): Promise<boolean>;
export function freePort(): Promise<number>;
