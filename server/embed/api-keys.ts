import { createHash, randomBytes } from 'node:crypto';
import type { z } from 'zod';
import type { ApiKey, newApiKeySchema } from '../../contract/decide.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import { inTransaction, inTransactionAmongOthers } from '../store/transaction.ts';
import { KeptAnswer } from '../work/kept-answer.ts';
import { type ApiKeyRow, allKeys, deleteKey, insertKey, keyRow, setKeyUsed, updateOrigins } from './rows.ts';

export interface KnownKey {
  readonly origins: readonly string[];
  readonly isSecret: boolean;
}

/** The keys by which other sites and programs ask for decisions. All of them are kept at hand. */
export class ApiKeys {
  private readonly known = new KeptAnswer(async () => {
    return new Map((await allKeys()).map((row) => [row.keyHash, row]));
  });

  constructor(log: ChangeLog) {
    log.on(['api-key'], () => this.known.forget());
  }

  async list(): Promise<ApiKey[]> {
    return (await allKeys()).map(listed);
  }

  async create(draft: z.infer<typeof newApiKeySchema>): Promise<ApiKey & { key: string }> {
    if (!draft.isSecret && draft.origins.length === 0)
      throw new Refusal(422, 'A key for browsers needs the sites whose pages may use it.', {
        fields: [{ path: 'origins', message: 'at least one site is needed' }],
      });
    const key = newKey(draft.isSecret);
    const row = await inTransaction((transaction) =>
      insertKey({ id: newId(), ...draft, keyHash: hashOf(key) }, transaction),
    );
    return { ...listed(row), key };
  }

  /**
   * Keeps a key under an id, made at the first time and the same ever since, for one more site of those that it is for.
   *
   * @returns the key itself; the instance keeps it, so this is for what the demo brings along only
   */
  async keepFor(entry: { id: string; name: string; isSecret: boolean }, origin?: string): Promise<string> {
    return inTransactionAmongOthers(async (transaction) => {
      const setting = `key-${entry.id}`;
      const stored = await settingOf(setting, transaction);
      const key = typeof stored === 'string' ? stored : newKey(entry.isSecret);
      if (stored !== key) await storeSetting(setting, key, transaction);
      const row = await keyRow(entry.id, transaction);
      const origins = [...new Set([...(row?.origins ?? []), ...(origin === undefined ? [] : [origin])])];
      if (!row) await insertKey({ ...entry, origins, keyHash: hashOf(key) }, transaction);
      else if (origins.length > row.origins.length) await updateOrigins(row, origins, transaction);
      return key;
    });
  }

  async remove(id: string): Promise<void> {
    if (!(await deleteKey(id))) throw notFound('key');
  }

  async find(key: string): Promise<KnownKey | undefined> {
    const row = (await this.known.get()).get(hashOf(key));
    if (!row) return undefined;
    void this.markUsed(row);
    return { origins: row.origins, isSecret: Boolean(row.isSecret) };
  }

  /** Every site that some key is for. */
  async origins(): Promise<Set<string>> {
    return new Set((await allKeys()).flatMap(({ origins }) => origins));
  }

  /** Once an hour is enough to see that a key is still in use. */
  private async markUsed(row: ApiKeyRow): Promise<void> {
    const now = Date.now();
    if (row.usedAt && now - row.usedAt.getTime() < 3_600_000) return;
    const usedAt = new Date(now);
    row.usedAt = usedAt;
    await setKeyUsed(row.id, usedAt).catch(() => undefined);
  }
}

function newKey(isSecret: boolean): string {
  return `porch-${isSecret ? 'server' : 'browser'}-${randomBytes(18).toString('base64url')}`;
}

function hashOf(key: string): string {
  return createHash('sha256').update(key).digest('hex');
}

function listed({ id, name, origins, isSecret, createdAt, usedAt }: ApiKeyRow): ApiKey {
  return {
    id,
    name,
    origins,
    isSecret: Boolean(isSecret),
    createdAt: createdAt.toISOString(),
    usedAt: usedAt?.toISOString() ?? null,
  };
}
