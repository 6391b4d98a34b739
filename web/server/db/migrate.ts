import { pool } from './client.ts';
import { runMigrations } from './migrations.ts';

/** Run by the start command before server and workers. */
await runMigrations();
await pool().end();
