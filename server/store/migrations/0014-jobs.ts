import { DataTypes, type QueryInterface } from 'sequelize';

/** Work that outlives the request that asked for it, and the process that began it. */
export async function up(tables: QueryInterface): Promise<void> {
  const text = (length: 'medium' | 'long') => ({ type: DataTypes.TEXT(length), allowNull: true });
  const instant = { type: DataTypes.DATE(3), allowNull: true };
  await tables.createTable('jobs', {
    id: { type: DataTypes.BIGINT.UNSIGNED, primaryKey: true, autoIncrement: true },
    kind: { type: DataTypes.STRING(40), allowNull: false },
    jobKey: { type: DataTypes.STRING(120), allowNull: true },
    // The key as long as the job is unfinished: of one key there is one at a time.
    activeKey: { type: DataTypes.STRING(120), allowNull: true, unique: true },
    title: { type: DataTypes.STRING(255), allowNull: false },
    payload: text('long'),
    state: text('long'),
    status: { type: DataTypes.STRING(10), allowNull: false, defaultValue: 'waiting' },
    every: { type: DataTypes.INTEGER.UNSIGNED, allowNull: true },
    runAfter: { ...instant, allowNull: false },
    holder: { type: DataTypes.STRING(40), allowNull: true },
    leaseUntil: instant,
    attempts: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 0 },
    // Grows with every claim, so that whoever lost the job can't store anything of it any more.
    claim: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 0 },
    beats: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 0 },
    progress: { type: DataTypes.DOUBLE, allowNull: true },
    result: text('long'),
    failure: { type: DataTypes.STRING(1000), allowNull: true },
    isStopping: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    accountName: { type: DataTypes.STRING(255), allowNull: false, defaultValue: '' },
    createdAt: { ...instant, allowNull: false },
    startedAt: instant,
    finishedAt: instant,
  });
  await tables.addIndex('jobs', ['status', 'runAfter']);
}
