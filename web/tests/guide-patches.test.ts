import { expect, test } from "vitest";
import type { WrittenGuide } from "../src/api/types";
import { isNoShare, moveEntry, removeEntry, setCells, shareOf } from "../src/refine/guide-patches";

const guide = {
  title: "Stalls",
  causes: [
    { cause: "debris", chance: 0.5 },
    { cause: "valve", chance: 0.5 },
  ],
  checks: [
    { id: "k1", yes: { debris: 0.1, valve: 0.9 } },
    { id: "k2", yes: {} },
  ],
  remedies: [{ id: "r1", remedy: "cleared", fixes: { debris: 0.95 } }],
} as unknown as WrittenGuide;

test("percents are read as they are typed, and what is none is told", () => {
  expect(["5", " 5 % ", "2,5", "0.1", "100"].map(shareOf)).toEqual([0.05, 0.05, 0.025, 0.001, 1]);
  expect(["", "abc", "Infinity", "1-2"].map(shareOf)).toEqual([null, null, null, null]);
  expect(["", " ", "5", "abc", "Infinity"].map((text) => isNoShare({ text }))).toEqual([
    false,
    false,
    false,
    true,
    true,
  ]);
});

test("several cells become one figure each, the others stay, an empty one takes the figure away", () => {
  const cells = [
    { kind: "checks" as const, row: "k1", cause: "debris", text: "" },
    { kind: "checks" as const, row: "k2", cause: "valve", text: "40" },
    { kind: "remedies" as const, row: "r1", cause: "valve", text: "20 %" },
  ];
  expect(setCells(cells).patch(guide)).toEqual([
    { op: "add", path: "/checks/0/yes", value: { valve: 0.9 } },
    { op: "add", path: "/checks/1/yes", value: { valve: 0.4 } },
    { op: "add", path: "/remedies/0/fixes", value: { debris: 0.95, valve: 0.2 } },
  ]);
});

test("rows are found by what they are, wherever they stand, and never moved past an end", () => {
  expect(moveEntry("checks", "k2", -1).patch(guide)).toEqual([
    { op: "move", from: "/checks/1", path: "/checks/0" },
  ]);
  expect(moveEntry("checks", "k2", 1).patch(guide)).toBeNull();
  expect(moveEntry("causes", "gone", 1).patch(guide)).toBeNull();
  expect(removeEntry("causes", "valve").patch(guide)).toEqual([{ op: "remove", path: "/causes/1" }]);
});
