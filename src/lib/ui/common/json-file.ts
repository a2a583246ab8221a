/**
 * What the file of JSON holds that was chosen; the chooser is empty again, so that the same can be chosen twice.
 *
 * @param what it should be, as "jig"
 * @returns nothing where none was chosen
 * @throws Error with a sentence for one that is not JSON
 */
export async function chosenJson(input: HTMLInputElement, what: string): Promise<unknown> {
  const file = input.files?.[0];
  input.value = '';
  if (!file) return undefined;
  try {
    return JSON.parse(await file.text()) as unknown;
  } catch {
    throw new Error(`${file.name} is no ${what}: it is not JSON.`);
  }
}
