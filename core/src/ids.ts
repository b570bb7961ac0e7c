// Branded ids: one type per table, so that an asset's id never stands where an order's is meant.

declare const idBrand: unique symbol;
export type Id<Table extends string> = number & { readonly [idBrand]: Table };

export type PersonId = Id<'person'>;
export type MessageId = Id<'message'>;
export type MailId = Id<'mail'>;
export type CustomerId = Id<'customer'>;
export type LocationId = Id<'location'>;
export type AssetId = Id<'asset'>;
export type AssetClassId = Id<'asset class'>;
export type CalendarId = Id<'calendar'>;
export type ServiceLevelId = Id<'service level'>;
export type AgreementId = Id<'agreement'>;
export type CoverageLineId = Id<'coverage line'>;
export type AllowanceId = Id<'allowance'>;
export type NoticeId = Id<'notice'>;
export type AmendmentId = Id<'amendment'>;
export type AgreementTypeId = Id<'agreement type'>;
export type ScheduleId = Id<'schedule'>;
export type PatternId = Id<'visit pattern'>;
export type LineScheduleId = Id<'line schedule'>;
export type FeedId = Id<'calendar feed'>;
export type DepotId = Id<'depot'>;
export type SkillId = Id<'skill'>;
export type JobPlanId = Id<'job plan'>;
export type VisitId = Id<'visit'>;
export type RunId = Id<'upkeep run'>;
export type OrderId = Id<'order'>;
export type OrderLineId = Id<'order line'>;
export type OrderViewId = Id<'order view'>;
export type AlertId = Id<'alert'>;
export type AlertRuleId = Id<'alert rule'>;
export type DeviceId = Id<'device'>;
export type GatewayId = Id<'gateway'>;
export type ContactId = Id<'contact'>;
export type CustomerNoteId = Id<'customer note'>;
export type AssetModelId = Id<'asset model'>;
export type ClassFormId = Id<'class form'>;
export type MeterId = Id<'meter'>;
export type MeterReadingId = Id<'meter reading'>;
export type AttachmentId = Id<'attachment'>;
export type ImportId = Id<'import'>;
export type JobId = Id<'job'>;
export type CraftId = Id<'craft'>;
export type RateCardId = Id<'rate card'>;
export type TimeEntryId = Id<'time entry'>;
export type PartId = Id<'part'>;
export type UsedPartId = Id<'used part'>;
export type StoreId = Id<'store'>;
export type StoreActId = Id<'store act'>;
export type StockMoveId = Id<'stock move'>;
export type NeedId = Id<'need'>;
export type SupplierId = Id<'supplier'>;
export type PurchaseId = Id<'purchase'>;
export type PurchaseLineId = Id<'purchase line'>;
export type OtherCostId = Id<'other cost'>;
export type TaxId = Id<'tax'>;
export type OfferId = Id<'offer'>;
export type AbsenceId = Id<'absence'>;
export type AppointmentId = Id<'appointment'>;
export type CrewId = Id<'crew'>;
export type RotaPlanId = Id<'rota plan'>;

export function asId<T extends Id<string>>(value: number): T {
  return value as T;
}
