import { PrinterModel } from '$core/colour/printer-model';
import { buildProfile, type ProfileRecipe } from '$core/colour/profile-build';

/** Builds a profile; the thread is ended when it is cancelled. */
export default function build({ model, recipe }: { model: PrinterModel; recipe: ProfileRecipe }): Uint8Array {
  return buildProfile(PrinterModel.parse(model), recipe);
}
