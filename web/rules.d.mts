/** The files of the rules, by path, with their text. */
export function filesOfRules(): Record<string, string>;
/** Lay everything out beside the application; gives where Python and where the rules lie. */
export function layRules(): { python: string; rules: string };
