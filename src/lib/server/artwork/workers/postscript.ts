import { execFile } from 'node:child_process';
import { mkdir, rm } from 'node:fs/promises';
import { ArtworkError } from '$core/artwork/facts';
import { Problem } from '../../platform/problem';
import type { ProcessLimits } from '../../platform/tasks/process-pool';

/**
 * A page of PostScript is a program. It gets so much time, memory and room, and a folder of its own for what it writes on the
 * way: Ghostscript lets it read, write and delete in the folder for temporary files, which must not be anybody else's.
 */
const OUTPUT_BLOCKS = 4_000_000;
/** Of the file's time and above its memory: what is beside Ghostscript is counted too, and its memory is not all in use. */
const SHARE_OF_TIME = 0.9;
const MORE_MEGABYTES = 1000;
/** What waits for the processor, or sleeps, is ended when the clock says so many times its limit. */
const CLOCK_FACTOR = 5;

/**
 * Has Ghostscript make a PDF of an EPS or PostScript file, colours as they are.
 *
 * @param out where the PDF goes, in a folder that is nobody else's: what is made on the way lies beside it
 * @throws ArtworkError with what to do
 */
export async function postscriptToPdf(program: string, path: string, out: string, limits: ProcessLimits): Promise<void> {
  const own = `${out}-temporary`;
  // An earlier try may have been ended in the middle.
  await rm(own, { recursive: true, force: true });
  await mkdir(own);
  await run(program, path, out, own, limits);
}

function run(program: string, path: string, out: string, own: string, { seconds, megabytes }: ProcessLimits): Promise<void> {
  const time = Math.max(1, Math.floor(seconds * SHARE_OF_TIME));
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
  // Limits that a child keeps are set by the shell that becomes it.
  const limited = [
    '-c',
    `ulimit -t ${time} && ulimit -v ${(megabytes + MORE_MEGABYTES) * 1000} && ulimit -f ${OUTPUT_BLOCKS} && exec "$@"`,
    'sh',
    program,
    ...args
  ];
  const env = { PATH: process.env.PATH, HOME: own, TMPDIR: own, TEMP: own, TMP: own };
  return new Promise<void>((resolve, reject) => {
    execFile(
      '/bin/sh',
      limited,
      { cwd: own, env, timeout: time * CLOCK_FACTOR * 1000, maxBuffer: 1e6, killSignal: 'SIGKILL' },
      (error, stdout, stderr) => {
        if (!error) return resolve();
        if ((error as NodeJS.ErrnoException).code === 'ENOENT' || (error.code as unknown) === 127)
          return reject(
            new Problem(
              503,
              'EPS and PostScript need Ghostscript, which is not installed on the server. Install the package “ghostscript” and read the file again, or ask for a PDF.'
            )
          );
        if (error.killed || error.signal)
          return reject(
            new Problem(
              422,
              `Ghostscript took longer than ${time} s, or too much room, over this file and was ended. Ask for a PDF, or raise the limit under Shop and read it again.`
            )
          );
        if (/VMerror|limitcheck/.test(`${stdout}${stderr}`))
          return reject(new ArtworkError('The PostScript takes too much memory. Ask for a PDF.'));
        reject(new ArtworkError('The PostScript is broken, or does what no page may do. Ask for a new copy, or a PDF.'));
      }
    );
  });
}
