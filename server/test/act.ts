// One act of a day's work: by what route, with the body as it is when its turn comes.

export type Ids = {
  customer: number;
  asset: number;
  spare: number;
  place: number;
  agreement: number;
  calendar: number;
  level: number;
  plan: number;
  otherPlan: number;
  order: number;
  other: number;
  third: number;
  assetClass: number;
  person: number;
  technician: number;
  administrator: number;
  floor: number;
  pattern: number;
  skill: number;
};
/** What there is when an act's turn comes: the version of what it changes, and the visits that wait. */
export type Standing = {
  readonly ids: Ids;
  readonly version: number;
  /** An order that nobody is planned for. */
  readonly loose: number;
  /** Its machine. */
  readonly looseLine: number;
  /** An act of the order whose time can be corrected. */
  readonly told: number;
  /** A tax. */
  readonly tax: number;
  /** A crew that goes together. */
  readonly crew: number;
  readonly visits: readonly { readonly scheduleId: number; readonly nominal: string; readonly planned: string }[];
};

/** What was done, by what route; address and body as they are when its turn comes. */
export type Act = {
  readonly says: string;
  readonly by: 'POST' | 'PUT' | 'DELETE';
  readonly url: (at: Standing) => string;
  readonly body?: (at: Standing) => unknown;
};
export const act = (
  says: string,
  by: Act['by'],
  url: (at: Standing) => string,
  body?: (at: Standing) => unknown,
): Act => ({
  ...{ says, by, url },
  ...(body && { body }),
});
