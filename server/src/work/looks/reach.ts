// What the thread for looks reaches: the database, which it reads itself, and content by its hash.
import { workerData } from 'node:worker_threads';
import { DataSource } from 'typeorm';
import { AssetStore } from '../../files/store.ts';
import type { LooksSetup } from '../looksTasks.ts';

const { databaseUrl, assets } = workerData as LooksSetup;
export const store = new AssetStore(assets);
export const db = new DataSource({ type: 'postgres', url: databaseUrl, extra: { max: 2 } });
export const connected = db.initialize();
/** Renders whose inputs are held at a time. */
export const COMPARED_TOGETHER = 64;
