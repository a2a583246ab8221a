import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { checkFolder } from '$lib/server/app/check';
import { defaultDataFolder } from '$lib/server/app/shop';
import { lockFolder } from '$lib/server/platform/db/lock';

/** Looks through a data folder and says what is wrong: `npm run check -- [FOLDER] [--mend]`. The server must not run. */

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { mend: { type: 'boolean', default: false }, quick: { type: 'boolean', default: false } }
});
const folder = positionals[0] ?? defaultDataFolder();
if (!existsSync(join(folder, 'shop.sqlite'))) {
  console.error(`There is no shop in ${folder}. Give its folder, or set ZING_DATA.`);
  process.exit(2);
}
try {
  const unlock = lockFolder(folder);
  const findings = await checkFolder(folder, { mend: values.mend, contents: !values.quick, youngerMs: 0 });
  unlock();
  for (const { what, mended } of findings) console.log(`${mended ? 'mended' : 'wrong'}: ${what}`);
  const left = findings.filter(({ mended }) => !mended).length;
  console.log(
    findings.length === 0
      ? 'All is well.'
      : left === 0
        ? `${findings.length} mended.`
        : `${left} of ${findings.length} are left${values.mend ? ' for a person' : '; --mend puts right what can be'}.`
  );
  process.exit(left > 0 ? 1 : 0);
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  process.exit(2);
}
