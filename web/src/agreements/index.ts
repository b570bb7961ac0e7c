export { AskCover } from './ask.tsx';
export { agreementsApi } from './endpoints.ts';
export { RENEWAL_CHOICES } from './header-form.tsx';
export { RightFields } from './rights.tsx';
export { NEW_TERMS, TermsFields } from './terms-fields.tsx';
