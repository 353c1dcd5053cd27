import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { siteSettingsSchema } from '../../core/deciding/release.ts';
import { AttributeRow, AudienceRow, DocumentRow, FactRow, SettingRow } from '../store/models.ts';

/** The drafts as one snapshot, read again after each change. */
export class Drafts {
  private loading: Promise<Decider> | undefined;

  async snapshot(): Promise<Snapshot> {
    return (await this.decider()).snapshot;
  }

  /** The drafts compiled for deciding. */
  decider(): Promise<Decider> {
    if (this.loading) return this.loading;
    const loading = readDrafts().then((snapshot) => new Decider(snapshot));
    this.loading = loading;
    loading.catch(() => {
      if (this.loading === loading) this.loading = undefined;
    });
    return loading;
  }

  /** To be called after every committed change of an attribute, audience, document, fact or setting. */
  changed(): void {
    this.loading = undefined;
  }
}

async function readDrafts(): Promise<Snapshot> {
  const [settings, attributes, audiences, documents, facts] = await Promise.all([
    SettingRow.findByPk('site'),
    AttributeRow.findAll({ raw: true, order: [['position', 'ASC']] }),
    AudienceRow.findAll({ raw: true, order: [['name', 'ASC']] }),
    DocumentRow.findAll({
      raw: true,
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
    }),
    FactRow.findAll({ raw: true, order: [['createdAt', 'ASC']] }),
  ]);
  return {
    settings: siteSettingsSchema.parse(settings?.value),
    attributes: attributes.map((row) => row.definition),
    audiences: audiences.map(({ id, name, description, condition }) => ({
      id,
      name,
      description,
      condition,
    })),
    documents: documents.map(({ id, kind, name, slug, content }) => ({ id, kind, name, slug, content })),
    facts: facts.map(({ id, who, also }) => ({ id, who, also })),
  };
}
