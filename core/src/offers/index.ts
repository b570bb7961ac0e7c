// Offers: what is proposed, what it comes to, what becomes of it.
export * from './offer.ts';
export * from './propose.ts';
