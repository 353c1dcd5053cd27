import { answered, ownHeaders, type Schema, send, understood } from './api.ts';

/** Sends a file as it is. */
export async function upload<Output>(path: string, file: File, schema: Schema<Output>): Promise<Output> {
  const response = await answered(
    fetch(`/api${path}`, {
      method: 'POST',
      headers: { ...ownHeaders(), 'content-type': 'application/octet-stream' },
      body: file,
    }),
    path,
  );
  return understood(schema, await response.json());
}

/** Asks for a file and saves it under a name. */
export async function save(path: string, body: unknown, name: string): Promise<void> {
  const answer = await send('POST', path, body);
  const address = URL.createObjectURL(await answer.blob());
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
