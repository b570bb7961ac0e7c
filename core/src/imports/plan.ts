// What an import reads of the register, and what it will do to it.
import type { PlannedAsset, Remark } from './rows.ts';
import type { AssetKey, DateFormat } from './columns.ts';

export type PlannedCustomer = { readonly name: string; readonly serviceAddress: string | null };
export type PlannedLocation = {
  /** Names from the top joined by " > ". */
  readonly path: string;
  readonly parentPath: string | null;
  readonly name: string;
  readonly address: string | null;
  readonly zone: string | null;
  readonly latitude: number | null;
  readonly longitude: number | null;
};
export type PlannedShare = { readonly customer: string; readonly path: string };
/** An asset of the register as an import may change it. */
export type HeldAsset = {
  readonly tag: string;
  readonly maker: string;
  readonly serial: string;
  readonly customer: string;
  readonly className: string;
  readonly model: string;
  readonly owner: 'customer' | 'own fleet';
  readonly commissioned: string | null;
  readonly warrantyUntil: string | null;
  readonly locationPath: string | null;
  readonly parentTag: string | null;
};

export const UPDATED_FIELDS = [
  'tag',
  'maker',
  'serial',
  'className',
  'model',
  'owner',
  'commissioned',
  'warrantyUntil',
  'locationPath',
  'parentTag',
] as const;
export type UpdatedField = (typeof UPDATED_FIELDS)[number];
/** What a row says differently of an asset that is held; an empty cell says nothing. */
export type PlannedUpdate = {
  readonly line: number;
  /** The tag as held. */
  readonly tag: string;
  readonly changes: Readonly<Partial<Record<UpdatedField, string>>>;
};

export type ImportOptions = { readonly dateFormat: DateFormat; readonly key: AssetKey };

/** What the register holds already, as far as the file touches it. */
export type HeldRegister = {
  readonly customers: ReadonlySet<string>;
  /** Names of classes in lower case; without them every class counts as new. */
  readonly classes?: ReadonlySet<string>;
  readonly locations: ReadonlyMap<
    string,
    { readonly zone: string | null; readonly address: string | null; readonly customers: ReadonlySet<string> }
  >;
  /** By tag. */
  readonly tags: ReadonlyMap<string, HeldAsset>;
  /** Tags by maker and serial. */
  readonly serials: ReadonlyMap<string, string>;
};

export type ImportPlan = {
  readonly customers: readonly PlannedCustomer[];
  /** Every class that the rows name, and those of them that the register does not have yet. */
  readonly classes: readonly string[];
  readonly newClasses: readonly string[];
  readonly locations: readonly PlannedLocation[];
  readonly shares: readonly PlannedShare[];
  readonly assets: readonly PlannedAsset[];
  readonly updates: readonly PlannedUpdate[];
  /** Rows whose asset is in the register already, unchanged by the import. */
  readonly alreadyHeld: number;
  /** Rows that cannot load, each with what would be right. */
  readonly bad: readonly Remark[];
  /** Rows that load, but not wholly as written. */
  readonly notes: readonly Remark[];
};
