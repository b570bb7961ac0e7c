export { CustomerForm, CustomerView } from './customer.tsx';
export { customersApi } from './endpoints.ts';
