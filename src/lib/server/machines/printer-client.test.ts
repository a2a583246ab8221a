import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { attribute, encodeResponse, STATUS, TAG, type IppAttribute } from '$protocol/ipp';
import { readPrinter } from './printer-client';

let server: Server | undefined;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});

/** A printer that says this of itself. */
async function printer(attributes: IppAttribute[]): Promise<string> {
  const answer = encodeResponse(STATUS.ok, 1, 'ok', [{ tag: TAG.printer, attributes }]);
  server = createServer((request, response) => {
    request.resume().on('end', () => response.setHeader('content-type', 'application/ipp').end(answer));
  });
  await new Promise<void>((resolve) => server!.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

const inksOf = (names: string[]) => [
  attribute(TAG.name, 'marker-names', names),
  attribute(TAG.name, 'marker-colors', Array<string>(names.length).fill('#a0b0c0')),
  attribute(TAG.integer, 'marker-levels', Array<number>(names.length).fill(80)),
  attribute(TAG.keyword, 'zing-ink-roles', Array<string>(names.length).fill('white')),
  attribute(TAG.name, 'zing-ink-channels', Array<string>(names.length).fill('White')),
  attribute(TAG.integer, 'zing-ink-drops', names.flatMap(() => [6000, 13000, 21000])), // prettier-ignore
  attribute(TAG.integer, 'zing-ink-shifts', names.flatMap(() => [0, 500])) // prettier-ignore
];

describe('what a printer says of itself', () => {
  it('tells inks of one name apart: screens and plates go by it', async () => {
    const { inks, inkSet } = await readPrinter(await printer(inksOf(['White', 'White'])));
    expect(inks.map(({ name, level }) => [name, level])).toEqual([
      ['White', 80],
      ['White 2', 80]
    ]);
    expect(inkSet?.map(({ name, channel }) => [name, channel])).toEqual([
      ['White', 'White'],
      ['White 2', 'White']
    ]);
  });

  it('is no more inks than are taken, and no ink set where one of them is not known', async () => {
    const many = Array.from({ length: 40 }, (_, i) => `Ink ${i}`);
    expect((await readPrinter(await printer(inksOf(many)))).inks).toHaveLength(16);
    server?.close();
    const unknown = inksOf(['White']).filter(({ name }) => name !== 'zing-ink-roles');
    expect(await readPrinter(await printer(unknown))).toMatchObject({ inkSet: null, inks: [{ name: 'White' }], layers: 1 });
  });

  it('of its inks is a share that is left or nothing, and a colour that is one', async () => {
    const said = [
      attribute(TAG.name, 'marker-names', ['Cyan', 'Magenta', 'Yellow', 'Black', 'White']),
      attribute(TAG.name, 'marker-colors', ['#00AAEE', '#FF0088#00FF00', 'none', 'red;background:url(//elsewhere)', '#FFFFFF']),
      attribute(TAG.integer, 'marker-levels', [-2, -3, 250, 0])
    ];
    const { inks } = await readPrinter(await printer(said));
    expect(inks.map(({ level }) => level)).toEqual([null, null, 100, 0, null]);
    expect(inks.map(({ colour }) => colour)).toEqual(['#00AAEE', '#FF0088', '#808080', '#808080', '#FFFFFF']);
  });
});
