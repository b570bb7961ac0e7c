import type { Room } from '../room.ts';
import { calendarRoutes } from './routes.ts';

export { calendarBook, calendarOfRow, type CalendarBook } from './book.ts';

export const calendars: Room = {
  name: 'calendars',
  routes: [calendarRoutes],
};
