// Labels of ours name what they are of, whatever is in a number; other codes are taken as they are.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { readLabel } from './index.ts';

const HOUSE = 'https://stavok.example.org';

it('reads back every tag and number that a label was made of', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 1, maxLength: 40 }), fc.constantFrom('asset', 'part'), (code, of) => {
      // A lone half of a sign can stand in no address.
      fc.pre(!/\p{Surrogate}/u.test(code));
      const path = of === 'asset' ? '/assets/tag/' : '/stores/scan/';
      expect(readLabel(`${HOUSE}${path}${encodeURIComponent(code)}`)).toEqual({ of, code });
    }),
  );
});

it('takes any other code as it is, and a broken label too', () => {
  expect(readLabel(' PLF410-Q1119 ')).toEqual({ of: null, code: 'PLF410-Q1119' });
  expect(readLabel(`${HOUSE}/assets/tag/%E0%A4%A`)).toEqual({ of: 'asset', code: '%E0%A4%A' });
  expect(readLabel(`${HOUSE}/orders/12`)).toEqual({ of: null, code: `${HOUSE}/orders/12` });
});
