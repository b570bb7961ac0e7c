// Customers: how their people want to be told.
export const WAYS_TO_TELL = ['e-mail', 'phone', 'text message'] as const;
export type WayToTell = (typeof WAYS_TO_TELL)[number];
