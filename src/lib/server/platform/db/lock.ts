import { join } from 'node:path';
import Database from 'better-sqlite3';
import { Problem } from '../problem';

/** How long a server that is being stopped is waited for. */
const WAIT_MS = 1500;

/**
 * Takes a data folder for this process alone. The lock is the system's own on an open file, so that it is gone with the
 * process, however that ends, and a server that was killed can be started again at once.
 *
 * @returns what lets go of it
 * @throws Problem while another process has it
 */
export function lockFolder(folder: string): () => void {
  const lock = new Database(join(folder, 'lock.sqlite'), { timeout: WAIT_MS });
  try {
    lock.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    lock.close();
    if (error instanceof Error && 'code' in error && String(error.code).startsWith('SQLITE_BUSY'))
      throw new Problem(409, `Another Zing Mast works on ${folder}. Stop it first, or choose another folder with ZING_DATA.`);
    throw error;
  }
  return () => {
    if (lock.open) lock.close();
  };
}
