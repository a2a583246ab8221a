import { Bonjour } from 'bonjour-service';
import { FORMATS } from './printer-attributes';
import type { KeptPrinter } from './network-printers';

/** Printers told to the machines around, so that their programs find them (DNS-SD, RFC 6763). */

export interface Announced {
  end: () => Promise<void>;
}

/** What a printer says of itself before it is asked. @see PWG 5100.14 section 4.2 */
export const announcedText = (
  { uuid, printer }: Pick<KeptPrinter, 'uuid' | 'printer'>,
  path: string
): Record<string, string> => ({
  txtvers: '1',
  qtotal: '1',
  rp: path.slice(1),
  ty: `Zing Mast ${printer.name}`,
  note: '',
  product: '(Zing Mast)',
  pdl: FORMATS.filter((format) => format !== 'application/octet-stream').join(','),
  Color: 'T',
  Duplex: 'F',
  kind: 'document,large-format,roll',
  UUID: uuid
});

/** @param onError told where the network does not let it */
export function announce(kept: KeptPrinter, path: string, onError: (error: unknown) => void): Announced {
  const bonjour = new Bonjour({}, onError);
  const { name, port } = kept.printer;
  const service = bonjour.publish({
    ...{ name, port, type: 'ipp', subtypes: ['print'] },
    txt: announcedText(kept, path)
  });
  service.on('error', onError);
  return {
    end: () =>
      new Promise((resolve) => {
        // It says goodbye, where there is somebody to hear it.
        const late = setTimeout(resolve, 1000);
        bonjour.unpublishAll(() => {
          clearTimeout(late);
          bonjour.destroy();
          resolve();
        });
      })
  };
}
