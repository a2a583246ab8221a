export const CHROMIUM: string;
export const CHROMIUM_ARGS: string[];
export function installDebianPackages(wanted: Record<string, string>): string[];
