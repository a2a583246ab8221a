import * as mupdf from 'mupdf';

/**
 * The PDF interpreter as all of Zing Mast uses it. Nothing else imports it, so that what is mended here is mended in every
 * thread that draws.
 *
 * A device's gradient callback is handed a gradient that the interpreter still owns, without a reference of its own, though
 * the wrapper around it lets go of one when it is collected. After some dozens of gradients memory that is in use would be
 * freed, and the module break. Gradients come from that callback alone, so that nothing is left to let go of.
 */
(mupdf.Shade as unknown as { _drop: () => void })._drop = () => undefined;

export * from 'mupdf';
export { isTrap, throwTraps } from './traps';
