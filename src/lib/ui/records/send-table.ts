import type { TableChoices } from '$core/records/table-choices';
import type { DocketRecords, TableTaken } from '$lib/server/dockets/docket-records';
import { Refusal } from '$lib/ui/common/client';

/** Files that a docket's records are made of. */

interface Of {
  id: number;
  version: number;
}

export type PicturesReply = Awaited<ReturnType<DocketRecords['takePictures']>>;

/** Sends a table's file for a docket. @throws Refusal with what is wrong of it */
export function sendTable(docket: Of, file: File, { heading, ...how }: TableChoices): Promise<TableTaken> {
  const params = new URLSearchParams();
  if (heading !== undefined) params.set('heading', heading ? 'yes' : 'no');
  for (const [name, value] of Object.entries(how)) if (value !== undefined) params.set(name, value);
  return put<TableTaken>(docket, 'table', file, params);
}

/** Sends a zip of pictures for a docket. @throws Refusal with what is wrong of it */
export const sendPictures = (docket: Of, file: File): Promise<PicturesReply> => put(docket, 'pictures', file);

async function put<T>({ id, version }: Of, what: string, file: File, params = new URLSearchParams()): Promise<T> {
  params.set('version', String(version));
  params.set('name', file.name.slice(0, 200) || what);
  let reply: Response;
  try {
    reply = await fetch(`/api/dockets/${id}/${what}?${params}`, {
      method: 'PUT',
      body: file,
      headers: { 'content-type': 'application/octet-stream' }
    });
  } catch {
    throw new Refusal(0, 'The file could not be sent. Is Zing Mast still running?', {});
  }
  const answer = (await reply.json().catch(() => ({}))) as T & { error?: string };
  if (!reply.ok) throw new Refusal(reply.status, answer.error ?? `The server answered ${reply.status}.`, {});
  return answer;
}
