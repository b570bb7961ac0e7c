// How large a measurement is: as asked for, or tiny, as the tests run every one of them so that none rots.
const isTiny = process.env.STAVOK_BENCH_TINY === '1';

export const sized = (whole: number, tiny: number): number => (isTiny ? tiny : whole);
