import type { Room } from '../room.ts';
import { calendarRoutes } from './routes.ts';

export { changedRow } from './changing.ts';
export { bookWith, calendarBook, calendarOfRow, holdCalendars, type CalendarBook } from './book.ts';

export const calendars: Room = {
  name: 'calendars',
  routes: [calendarRoutes],
};
