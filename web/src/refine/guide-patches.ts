import type { GuideCheck, GuideRemedy, PatchOperation, WrittenGuide } from "../api/types";

type Rows = { checks: GuideCheck; remedies: GuideRemedy };
export type RowKind = keyof Rows;
/** A change of a guide, worked out from what it says when it is sent. */
export type GuideChange = { patch: (guide: WrittenGuide) => PatchOperation[] | null };
/** A cell of the sheet: how often a check is so, or a remedy helps, with a cause; typed in percent. */
export type CellText = { kind: RowKind; row: string; cause: string; text: string };

const FIELD = { checks: "yes", remedies: "fixes" } as const;

function chances(guide: WrittenGuide, kind: RowKind, at: number): Record<string, number> {
  return kind === "checks" ? (guide.checks[at]?.yes ?? {}) : (guide.remedies[at]?.fixes ?? {});
}

/** Percents as typed: with or without the sign, a comma or a point; nothing for what is no number. */
export function shareOf(text: string): number | null {
  const value = Number(text.replace("%", "").replace(",", ".").trim());
  return text.trim() === "" || !Number.isFinite(value) ? null : Math.round(value * 10) / 1000;
}

/** Whether a cell says something that is no percentage. */
export const isNoShare = ({ text }: { text: string }) => text.trim() !== "" && shareOf(text) === null;

/** Several cells at once; an empty one takes the figure away. None of them may be {@link isNoShare}. */
export function setCells(cells: CellText[]): GuideChange {
  return {
    patch: (guide) => {
      const out: PatchOperation[] = [];
      for (const kind of ["checks", "remedies"] as const) {
        guide[kind].forEach((row, at) => {
          const own = cells.filter((cell) => cell.kind === kind && cell.row === row.id);
          if (own.length === 0) return;
          const value = { ...chances(guide, kind, at) };
          for (const cell of own) {
            const share = shareOf(cell.text);
            if (share === null) delete value[cell.cause];
            else value[cell.cause] = share;
          }
          out.push({ op: "add", path: `/${kind}/${at}/${FIELD[kind]}`, value });
        });
      }
      return out;
    },
  };
}

/** How often a cause is the one, as a share. */
export function setChance(cause: string, chance: number): GuideChange {
  return {
    patch: (guide) => {
      const at = guide.causes.findIndex((c) => c.cause === cause);
      return at < 0 ? null : [{ op: "add", path: `/causes/${at}/chance`, value: chance }];
    },
  };
}

/** One field of a check or a remedy, wherever it stands now. */
export function setRow<K extends RowKind, F extends keyof Rows[K] & string>(
  kind: K,
  id: string,
  field: F,
  value: Rows[K][F],
): GuideChange {
  return {
    patch: (guide) => {
      const at = guide[kind].findIndex((row) => row.id === id);
      return at < 0 ? null : [{ op: "add", path: `/${kind}/${at}/${field}`, value }];
    },
  };
}

/** Add a cause, a check or a remedy at the end. */
export function addEntry(kind: RowKind | "causes", value: unknown): GuideChange {
  return { patch: () => [{ op: "add", path: `/${kind}/-`, value }] };
}

/** Take a check, a remedy or a cause away. */
export function removeEntry(kind: RowKind | "causes", key: string): GuideChange {
  return {
    patch: (guide) => {
      const at =
        kind === "causes"
          ? guide.causes.findIndex((c) => c.cause === key)
          : guide[kind].findIndex((row) => row.id === key);
      return at < 0 ? null : [{ op: "remove", path: `/${kind}/${at}` }];
    },
  };
}

/** Move a check, a remedy or a cause one place. */
export function moveEntry(kind: RowKind | "causes", key: string, by: 1 | -1): GuideChange {
  return {
    patch: (guide) => {
      const keys = kind === "causes" ? guide.causes.map((c) => c.cause) : guide[kind].map((row) => row.id);
      const at = keys.indexOf(key);
      const to = at + by;
      if (at < 0 || to < 0 || to >= keys.length) return null;
      return [{ op: "move", from: `/${kind}/${at}`, path: `/${kind}/${to}` }];
    },
  };
}
