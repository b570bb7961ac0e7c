// What this room asks of the server.
import * as offers from '#api/offers.ts';
import { read, server, write } from '../shell/store.ts';

export const offersApi = server.injectEndpoints({
  endpoints: (build) => ({
    listOffers: read(build, offers.listOffers),
    readOffer: read(build, offers.readOffer),
    proposeOffer: read(build, offers.proposeOffer),
    addOffer: write(build, offers.addOffer),
    changeOffer: write(build, offers.changeOffer),
    sendOffer: write(build, offers.sendOffer),
    acceptOffer: write(build, offers.acceptOffer),
    declineOffer: write(build, offers.declineOffer),
    withdrawOffer: write(build, offers.withdrawOffer),
  }),
});
