import { QueryTypes, type Sequelize } from 'sequelize';
import { noteChange } from '../store/noted-changes.ts';
import { inTransactionAmongOthers } from '../store/transaction.ts';

/** How often some items were opened, or all that ever were. */
export async function viewsOf(
  sequelize: Sequelize,
  ids?: readonly string[],
): Promise<{ itemId: string; views: number }[]> {
  const rows = await sequelize.query<{ itemId: string; views: number | string }>(
    `SELECT itemId, views FROM item_views${ids ? ' WHERE itemId IN (?)' : ''}`,
    { type: QueryTypes.SELECT, ...(ids && { replacements: [ids] }) },
  );
  return rows.map(({ itemId, views }) => ({ itemId, views: Number(views) }));
}

/** Adds to how often items were opened: each item with how many times more. */
export async function addViews(
  sequelize: Sequelize,
  added: readonly (readonly [itemId: string, views: number])[],
): Promise<void> {
  await inTransactionAmongOthers(async (transaction) => {
    await sequelize.query(
      `INSERT INTO item_views (itemId, views) VALUES ${added.map(() => '(?, ?)').join(', ')}
       ON DUPLICATE KEY UPDATE views = views + VALUES(views)`,
      { replacements: added.flat(), type: QueryTypes.INSERT, transaction },
    );
    for (const [itemId] of added) noteChange(transaction, 'item-views', itemId);
  });
}
