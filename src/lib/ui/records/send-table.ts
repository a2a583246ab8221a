import type { TableChoices } from '$core/records/table-choices';
import type { TableTaken } from '$lib/server/dockets/docket-records';
import { Refusal } from '$lib/ui/common/client';

/** Sends a table's file for a docket. @throws Refusal with what is wrong of it */
export async function sendTable(
  docket: { id: number; version: number },
  file: File,
  { heading, ...how }: TableChoices
): Promise<TableTaken> {
  const params = new URLSearchParams({ version: String(docket.version), name: file.name.slice(0, 200) || 'table' });
  if (heading !== undefined) params.set('heading', heading ? 'yes' : 'no');
  for (const [name, value] of Object.entries(how)) if (value !== undefined) params.set(name, value);
  let reply: Response;
  try {
    reply = await fetch(`/api/dockets/${docket.id}/table?${params}`, {
      method: 'PUT',
      body: file,
      headers: { 'content-type': 'application/octet-stream' }
    });
  } catch {
    throw new Refusal(0, 'The file could not be sent. Is Zing Mast still running?', {});
  }
  const answer = (await reply.json().catch(() => ({}))) as TableTaken & { error?: string };
  if (!reply.ok) throw new Refusal(reply.status, answer.error ?? `The server answered ${reply.status}.`, {});
  return answer;
}
