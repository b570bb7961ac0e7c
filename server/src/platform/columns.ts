// Column types that keep dates and instants apart: DATE is a local date, DATETIME(3) an instant in UTC.
import { customType, int } from 'drizzle-orm/mysql-core';
import { instant, type Instant, type LocalDate } from '#core/time/index.ts';

export function instantText(at: Instant): string {
  return new Date(at).toISOString().slice(0, 23).replace('T', ' ');
}

export function instantOfText(text: string): Instant {
  return instant(Date.parse(`${text.replace(' ', 'T')}Z`));
}

export const instantColumn = customType<{ data: Instant; driverData: string }>({
  dataType: () => 'datetime(3)',
  toDriver: instantText,
  fromDriver: (value) => instantOfText(value),
});

export const dateColumn = customType<{ data: LocalDate; driverData: string }>({
  dataType: () => 'date',
  toDriver: (value) => value,
  fromDriver: (value) => value as LocalDate,
});

/** MariaDB hands JSON back as text; an undefined column default is never relied on. */
export const jsonColumn = <T>(name?: string) =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'json',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (value) => (typeof value === 'string' ? (JSON.parse(value) as T) : (value as T)),
  })(name ?? '');

export const rowId = <T>() => int({ unsigned: true }).autoincrement().primaryKey().$type<T>();
export const reference = <T>() => int({ unsigned: true }).$type<T>();
