export { AskCover } from './ask.tsx';
export { agreementsApi } from './endpoints.ts';
export { RightFields } from './rights.tsx';
export { NEW_TERMS, TermsFields } from './terms-fields.tsx';
