export { AskCover } from './ask.tsx';
export { agreementsApi } from './endpoints.ts';
export { RENEWAL_CHOICES } from './renewal-choices.ts';
export { RightFields } from './rights.tsx';
export { NEW_TERMS, TermsFields } from './terms-fields.tsx';
