// What this room asks of the server.
import * as facility from '#api/facility.ts';
import * as load from '#api/load.ts';
import * as patterns from '#api/patterns.ts';
import * as schedules from '#api/schedules.ts';
import * as upkeep from '#api/upkeep.ts';
import * as year from '#api/year.ts';
import { read, write, server } from '../shell/store.ts';

export const upkeepApi = server.injectEndpoints({
  endpoints: (build) => ({
    readDue: read(build, upkeep.readDue),
    previewRun: read(build, upkeep.previewRun),
    readNothing: read(build, upkeep.readNothing),
    readRun: read(build, upkeep.readRun),
    listRuns: read(build, upkeep.listRuns),
    readUpkeepSettings: read(build, upkeep.readUpkeepSettings),
    readSeries: read(build, schedules.readSeries),
    readTook: read(build, schedules.readTook),
    changeSeries: write(build, schedules.changeSeries),
    changeSchedule: write(build, schedules.changeSchedule),
    readLoad: read(build, load.readLoad),
    readLevelling: read(build, load.readLevelling),
    moveVisits: write(build, load.moveVisits),
    readFacility: read(build, facility.readFacility),
    previewFacility: { ...read(build, facility.previewFacility), keepUnusedDataFor: 5 },
    setFacility: write(build, facility.setFacility),
    readYear: read(build, year.readYear),
    listFeeds: read(build, year.listFeeds),
    addFeed: write(build, year.addFeed),
    revokeFeed: write(build, year.revokeFeed),
    listPatterns: read(build, patterns.listPatterns),
    addPattern: write(build, patterns.addPattern),
    changePattern: write(build, patterns.changePattern),
    removePattern: write(build, patterns.removePattern),
    readCandidates: read(build, patterns.readCandidates),
    applyPattern: write(build, patterns.applyPattern),
    readFollowers: read(build, patterns.readFollowers),
    followPattern: write(build, patterns.followPattern),
    decideVisits: write(build, upkeep.decideVisits),
    releaseVisits: write(build, upkeep.releaseVisits),
    commitRun: write(build, upkeep.commitRun),
    setUpkeepSetting: write(build, upkeep.setUpkeepSetting),
  }),
});
