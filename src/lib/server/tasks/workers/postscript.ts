import { execFile } from 'node:child_process';
import { ArtworkError } from '$core/artwork/facts';

/** A page of PostScript is a program: it gets this long, and no files but its own. */
const SECONDS = 100;

/** Has Ghostscript make a PDF of an EPS or PostScript file, colours as they are. @throws ArtworkError with what to do */
export async function postscriptToPdf(program: string, path: string, out: string, signalAfter = SECONDS): Promise<void> {
  const args = [
    '-dSAFER',
    '-dBATCH',
    '-dNOPAUSE',
    '-dQUIET',
    '-dEPSCrop',
    '-sDEVICE=pdfwrite',
    '-dColorConversionStrategy=/LeaveColorUnchanged',
    '-dAutoRotatePages=/None',
    '-dDownsampleColorImages=false',
    '-dDownsampleGrayImages=false',
    '-dDownsampleMonoImages=false',
    '-dAutoFilterColorImages=false',
    '-dColorImageFilter=/FlateEncode',
    '-dAutoFilterGrayImages=false',
    '-dGrayImageFilter=/FlateEncode',
    `-sOutputFile=${out}`,
    path
  ];
  await new Promise<void>((resolve, reject) => {
    execFile(program, args, { timeout: signalAfter * 1000, maxBuffer: 1e6, killSignal: 'SIGKILL' }, (error, stdout, stderr) => {
      if (!error) return resolve();
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') {
        return reject(
          new ArtworkError(
            'EPS and PostScript need Ghostscript, which is not installed on the server. Install the package “ghostscript” and send the file again, or ask for a PDF.'
          )
        );
      }
      if (error.killed)
        return reject(
          new ArtworkError(`Ghostscript took longer than ${signalAfter} s over this file and was ended. Ask for a PDF.`)
        );
      const said = /Error: (\S+)/.exec(`${stdout}${stderr}`)?.[1] ?? 'it cannot be carried out';
      reject(new ArtworkError(`The PostScript is broken (${said.slice(0, 80)}). Ask for a new copy, or a PDF.`));
    });
  });
}
