// What of a job plan an order keeps: as it held when the order was raised, whatever becomes of the plan.

export type PlannedPart = {
  readonly partId: number;
  readonly number: string;
  readonly name: string;
  readonly unit: string;
  readonly thousandths: number;
};

export type KeptPlan = {
  readonly name: string;
  /** Of the job plan, counted up with each change. */
  readonly version: number;
  readonly minutes: number;
  readonly crew: number;
  readonly skill: string | null;
  readonly safety: string;
  readonly parts: readonly PlannedPart[];
};
