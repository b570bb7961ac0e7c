// Serials: letters and digits, however somebody writes or says them.

/** The serial without dashes, spaces and capitals, for callers who leave them out. */
export const plainSerial = (serial: string): string => serial.toLowerCase().replace(/[^a-z0-9]/g, '');
