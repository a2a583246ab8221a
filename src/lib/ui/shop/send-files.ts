import { attempt } from '$lib/ui/common/client';

/** Sends the files that were chosen, one after another, and says of each that it is there. */
export async function sendFiles(event: Event, to: string, said: (name: string) => string): Promise<void> {
  const input = event.currentTarget as HTMLInputElement;
  // The chooser's list is emptied below.
  for (const file of [...(input.files ?? [])])
    await attempt(async () => {
      const reply = await fetch(to, { method: 'PUT', body: file, headers: { 'content-type': 'application/octet-stream' } });
      if (!reply.ok) throw new Error(((await reply.json()) as { error: string }).error);
    }, said(file.name));
  input.value = '';
}
