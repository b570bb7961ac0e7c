// The ribbon on the wire: what one time line shows of an asset.
import * as v from 'valibot';
import { dateOut, instantNumber } from './shapes.ts';

export const coverBand = v.object({
  label: v.string(),
  kind: v.picklist(['warranty', 'agreement', 'draft', 'suspended']),
  from: dateOut,
  to: v.nullable(dateOut),
  agreementId: v.nullable(v.number()),
  noticeBy: v.nullable(dateOut),
});
export const careMark = v.object({
  due: dateOut,
  /** The day it is to be done: another where somebody moved it, or a weekday is wanted. */
  planned: dateOut,
  /** Somebody moved or added it. */
  changed: v.boolean(),
  windowFrom: dateOut,
  windowTo: dateOut,
  state: v.picklist(['planned', 'in window', 'outside window', 'not done', 'left out']),
  /** Where a meter is carried on to its day: between which days it will come; `to` null: no end can be told. */
  band: v.optional(v.object({ from: dateOut, to: v.nullable(dateOut) })),
  orderId: v.nullable(v.number()),
  label: v.string(),
});
export const troubleBar = v.object({
  orderId: v.number(),
  from: instantNumber,
  to: v.nullable(instantNumber),
  missed: v.boolean(),
  label: v.string(),
  notches: v.array(instantNumber),
});
export const ribbon = v.object({ cover: v.array(coverBand), care: v.array(careMark), trouble: v.array(troubleBar) });
export type Ribbon = v.InferOutput<typeof ribbon>;
export type CoverBand = v.InferOutput<typeof coverBand>;
export type CareMark = v.InferOutput<typeof careMark>;
export type TroubleBar = v.InferOutput<typeof troubleBar>;
