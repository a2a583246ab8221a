import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { temporaryFolder, until } from '../harness';

const run = promisify(execFile);

/** A print server of its own, of the kind that Debian and others have. */
export interface Cups {
  /** Runs one of its commands against it. @returns what that says */
  command: (name: 'lp' | 'lpadmin' | 'lpstat' | 'cancel', args: string[]) => Promise<string>;
  stop: () => void;
}

/** Filters of a document run as another user, and write there. */
const FOR_ALL = 0o777;

export async function startCups(port: number): Promise<Cups> {
  const { path: folder, remove } = temporaryFolder();
  for (const name of ['root', 'cache', 'state', 'spool', 'temp', 'log', 'root/ppd', 'root/ssl']) mkdirSync(join(folder, name));
  for (const name of ['', 'spool', 'temp', 'cache']) chmodSync(join(folder, name), FOR_ALL);
  const at = (name: string) => join(folder, name);
  writeFileSync(
    at('files.conf'),
    `ServerRoot ${at('root')}\nCacheDir ${at('cache')}\nStateDir ${at('state')}\nRequestRoot ${at('spool')}\nTempDir ${at('temp')}
ServerBin /usr/lib/cups\nDataDir /usr/share/cups\nAccessLog ${at('log/access')}\nErrorLog ${at('log/error')}\nPageLog ${at('log/page')}
SystemGroup root\nUser lp\nGroup lp\n`
  );
  writeFileSync(
    at('cupsd.conf'),
    `Listen 127.0.0.1:${port}\nBrowsing Off\nLogLevel debug\nDefaultPolicy open\nMaxLogSize 0
<Location />\nOrder allow,deny\nAllow all\n</Location>\n<Policy open>\n<Limit All>\nOrder allow,deny\nAllow all\n</Limit>\n</Policy>\n`
  );
  const server: ChildProcess = spawn('cupsd', ['-f', '-c', at('cupsd.conf'), '-s', at('files.conf')], { stdio: 'ignore' });
  const command: Cups['command'] = async (name, args) =>
    (await run(name, ['-h', `127.0.0.1:${port}`, ...args], { env: { ...process.env, LC_ALL: 'C.UTF-8' } })).stdout;
  await until(
    () =>
      command('lpstat', ['-r']).then(
        (said) => said.includes('is running'),
        () => false
      ),
    20
  );
  return {
    command,
    stop: () => {
      server.once('exit', remove);
      server.kill('SIGTERM');
    }
  };
}
