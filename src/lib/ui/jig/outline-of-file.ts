import type { Thing } from '$core/layout/jig';

/** A thing as a drawing outlines it, as the server reads that. @throws Error with what is wrong of the file */
export async function outlineOfFile(file: File): Promise<Thing> {
  const reply = await fetch(`/api/jigs/outline?${new URLSearchParams({ name: file.name }).toString()}`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: file
  });
  const answer = (await reply.json()) as Thing & { error?: string };
  if (!reply.ok) throw new Error(answer.error ?? 'The file could not be read.');
  return answer;
}
