import { describe, expect, it } from "vitest";
import { count, number } from "../src/ui/format";

describe("figures", () => {
  it("are written with at most one decimal, a minus sign and a comma between thousands", () => {
    expect([0, -0.04, 0.25, -12.34, 999.96, 2387, -1_000_000].map(number)).toEqual([
      "0",
      "0",
      "0.3",
      "−12.3",
      "1,000",
      "2,387",
      "−1,000,000",
    ]);
  });
  it("stand before what they count", () => {
    expect([count(1, "order"), count(2387, "order"), count(0, "has", "have")]).toEqual([
      "1 order",
      "2,387 orders",
      "0 have",
    ]);
  });
});
