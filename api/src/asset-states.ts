// The states an asset can be in.
export const ASSET_STATES = ['in service', 'out of service', 'in store', 'retired'] as const;
export type AssetState = (typeof ASSET_STATES)[number];
