// Where names like $core lead, for the tool that holds the order of imports.
import { aliases } from './node-build.mjs';

export default { resolve: { alias: aliases, extensions: ['.ts', '.mjs', '.js', '.svelte'] } };
