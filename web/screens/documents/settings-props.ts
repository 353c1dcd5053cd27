import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Picture } from '../../../contract/documents.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Block } from '../../../core/documents/document.ts';

/** What the settings of a kind of block are given. */
export interface SettingsProps<Kind extends Block['kind'] = Block['kind']> {
  block: Extract<Block, { kind: Kind }>;
  pictures: readonly Picture[];
  audiences: readonly ListedAudience[];
  catalogue: Catalogue;
  update: (update: (block: Block) => Block) => void;
}
