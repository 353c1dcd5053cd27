import { createHash, randomBytes } from 'node:crypto';
import type { z } from 'zod';
import type { ApiKey, newApiKeySchema } from '../../contract/decide.ts';
import { newId } from '../ids.ts';
import { KeptAnswer } from '../kept-answer.ts';
import { notFound, Refusal } from '../refusal.ts';
import { ApiKeyRow } from '../store/models.ts';

export interface KnownKey {
  readonly origins: readonly string[];
  readonly isSecret: boolean;
}

/** The keys by which other sites and programs ask for decisions. All of them are kept at hand. */
export class ApiKeys {
  private readonly known = new KeptAnswer(async () => {
    const rows = await ApiKeyRow.findAll();
    return new Map(rows.map((row) => [row.keyHash, row]));
  });

  async list(): Promise<ApiKey[]> {
    const rows = await ApiKeyRow.findAll({ order: [['createdAt', 'ASC']] });
    return rows.map(listed);
  }

  async create(draft: z.infer<typeof newApiKeySchema>): Promise<ApiKey & { key: string }> {
    if (!draft.isSecret && draft.origins.length === 0)
      throw new Refusal(422, 'A key for browsers needs the sites whose pages may use it.', {
        fields: [{ path: 'origins', message: 'at least one site is needed' }],
      });
    const key = `porch-${draft.isSecret ? 'server' : 'browser'}-${randomBytes(18).toString('base64url')}`;
    const row = await this.keep({ id: newId(), ...draft }, key);
    return { ...listed(row), key };
  }

  /** Keeps a key under an id, in place of the one that was under it. */
  async keep(
    entry: { id: string; name: string; origins: string[]; isSecret: boolean },
    key: string,
  ): Promise<ApiKeyRow> {
    await ApiKeyRow.destroy({ where: { id: entry.id } });
    const row = await ApiKeyRow.create({ ...entry, keyHash: hashOf(key) });
    this.known.forget();
    return row.reload();
  }

  async remove(id: string): Promise<void> {
    if ((await ApiKeyRow.destroy({ where: { id } })) === 0) throw notFound('key');
    this.known.forget();
  }

  async find(key: string): Promise<KnownKey | undefined> {
    const row = (await this.known.get()).get(hashOf(key));
    if (!row) return undefined;
    void this.markUsed(row);
    return { origins: row.origins, isSecret: Boolean(row.isSecret) };
  }

  /** Every site that some key is for. */
  async origins(): Promise<Set<string>> {
    const rows = await ApiKeyRow.findAll();
    return new Set(rows.flatMap(({ origins }) => origins));
  }

  /** Once an hour is enough to see that a key is still in use. */
  private async markUsed(row: ApiKeyRow): Promise<void> {
    const now = Date.now();
    if (row.usedAt && now - row.usedAt.getTime() < 3_600_000) return;
    row.usedAt = new Date(now);
    await ApiKeyRow.update({ usedAt: row.usedAt }, { where: { id: row.id } }).catch(() => undefined);
  }
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
