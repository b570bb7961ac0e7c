export { mailboxApi } from './endpoints.ts';
