// What this room asks of the server.
import * as customers from '#api/customers.ts';
import { read, write, server } from '../shell/store.ts';

export const customersApi = server.injectEndpoints({
  endpoints: (build) => ({
    listCustomers: read(build, customers.listCustomers),
    readCustomer: read(build, customers.readCustomer),
    addCustomer: write(build, customers.addCustomer),
    changeCustomer: write(build, customers.changeCustomer),
    addContact: write(build, customers.addContact),
    changeContact: write(build, customers.changeContact),
    removeContact: write(build, customers.removeContact),
    addNote: write(build, customers.addNote),
    removeNote: write(build, customers.removeNote),
    setWish: write(build, customers.setWish),
  }),
});
