// Agreement types: the provider's own kinds of agreement, as the terms that a new one is filled with.
import type { AllowancePeriod, AllowanceUnit, Cause, Discount, Shares } from '../entitlement/index.ts';
import type { OrderKind } from '../orders/index.ts';
import type { BillingPer, BillingTiming } from './price.ts';
import type { RenewalMode } from './renewal.ts';

export type AgreementTypeTerms = {
  /** Length of the term in months; null for an open end. */
  readonly months: number | null;
  readonly noticeDays: number;
  readonly renewalMode: RenewalMode;
  readonly renewalMonths: number;
  readonly billingPer: BillingPer;
  readonly billingTiming: BillingTiming;
  readonly reminder: string;
  readonly shares: Shares;
  readonly discounts: readonly Discount[];
  readonly kinds: readonly OrderKind[];
  readonly excludedCauses: readonly Cause[];
  readonly excludedParts: readonly string[];
  readonly allowances: readonly {
    readonly unit: AllowanceUnit;
    readonly amount: number;
    readonly period: AllowancePeriod;
    readonly carriesOver: boolean;
  }[];
};
