export { CustomerForm, CustomerView } from './customer.tsx';
export { customersApi } from './endpoints.ts';
export { ChooseCustomer, useCustomerChoice } from './choose.tsx';
