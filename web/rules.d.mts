/** The files of the rules, by path, with their text. */
export function filesOfRules(): Record<string, string>;
/** Lay the rules out beside the application; gives their address. */
export function layRules(): string;
