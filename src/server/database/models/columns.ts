/** Kinds of columns. */
import { DataTypes, type Model } from 'sequelize';

// Sequelize writes into the objects it is given, so every column gets one of its own.
export const id = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true });
export const integer = () => ({ type: DataTypes.INTEGER, allowNull: false });
export const text = () => ({ type: DataTypes.TEXT, allowNull: false });
export const json = () => ({ type: DataTypes.JSONB, allowNull: false });
export const now = () => ({ type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW });
export const maybe = <T extends { allowNull: boolean }>(column: T): T => ({ ...column, allowNull: true });
/** bigint columns come back as texts; sizes stay below 2^53. */
export const bytes = (name: string) => ({
  type: DataTypes.BIGINT,
  allowNull: false,
  defaultValue: 0,
  get(this: Model): number {
    return Number(this.getDataValue(name));
  },
});
