// What this room asks of the server.
import * as corrections from '#api/corrections.ts';
import { readDerivations } from '#api/derivations.ts';
import { readReliability } from '#api/reliability.ts';
import { readReview } from '#api/review.ts';
import * as standing from '#api/standing.ts';
import * as months from '#api/standing-months.ts';
import { read, server, write } from '../shell/store.ts';

export const standingApi = server.injectEndpoints({
  endpoints: (build) => ({
    readStanding: read(build, standing.readStanding),
    readDerivations: read(build, readDerivations),
    readReliability: read(build, readReliability),
    readReview: read(build, readReview),
    standingDetail: read(build, standing.standingDetail),
    readStandingPlaces: read(build, standing.readStandingPlaces),
    readStandingTotal: read(build, standing.readStandingTotal),
    readStandingBefore: read(build, standing.readStandingBefore),
    readStandingCourse: read(build, standing.readStandingCourse),
    readStandingMonths: read(build, months.readStandingMonths),
    readAdjustments: read(build, months.readAdjustments),
    readClockHistory: read(build, corrections.readClockHistory),
    previewCorrection: { ...read(build, corrections.previewCorrection), keepUnusedDataFor: 5 },
    correctOrder: write(build, corrections.correctOrder),
    closeStandingMonth: write(build, months.closeStandingMonth),
  }),
});
