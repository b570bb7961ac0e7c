// What of a job plan an order keeps: as it held when the order was raised, whatever becomes of the plan.
import type { ClassFormId, SkillId } from '../ids.ts';

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
  /** By their names; the first is the one its hours are counted to. */
  readonly skills: readonly string[];
  /** The same by their ids; orders from before the rota have none, and are known by the names. */
  readonly skillIds?: readonly SkillId[];
  readonly safety: string;
  readonly parts: readonly PlannedPart[];
  /** Forms it asks for where the machine is of their class, by their ids in the catalogue. */
  readonly formIds: readonly ClassFormId[];
};
