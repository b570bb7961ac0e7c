import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'mysql',
  schema: './server/src/platform/tables/index.ts',
  out: './server/migrations',
  casing: 'snake_case',
});
