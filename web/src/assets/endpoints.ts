// What this room asks of the server.
import * as assets from '#api/assets.ts';
import * as register from '#api/register.ts';
import { read, write, server } from '../shell/store.ts';

export const assetsApi = server.injectEndpoints({
  endpoints: (build) => ({
    listAssets: read(build, register.listAssets),
    readAsset: read(build, register.readAsset),
    changeAsset: write(build, assets.changeAsset),
    addAsset: write(build, assets.addAsset),
    recordLife: write(build, assets.recordLife),
    previewSwap: write(build, assets.previewSwap),
    swapAsset: write(build, assets.swapAsset),
    addMeter: write(build, assets.addMeter),
    addReading: write(build, assets.addReading),
    previewBulk: write(build, assets.previewBulk),
    changeMany: write(build, assets.changeMany),
    listTwins: read(build, assets.listTwins),
    mergeAssets: write(build, assets.mergeAssets),
    searchHistory: read(build, assets.searchHistory),
  }),
});
