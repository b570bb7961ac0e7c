export { CustomerView } from './customer.tsx';
export { CustomerForm } from './forms.tsx';
export { customersApi } from './endpoints.ts';
export { ChooseCustomer, useCustomerChoice } from './choose.tsx';
