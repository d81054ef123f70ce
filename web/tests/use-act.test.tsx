import { notifications } from "@mantine/notifications";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { renderHook, act as settle } from "@testing-library/react";
import type { ReactNode } from "react";
import { beforeEach, expect, it, vi } from "vitest";
import { useAct } from "../src/ui/use-act";

vi.mock("@mantine/notifications", () => ({ notifications: { show: vi.fn() } }));
const shown = vi.mocked(notifications.show);
beforeEach(() => shown.mockClear());

function acting(changed = vi.fn()) {
  const cache = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={cache}>{children}</QueryClientProvider>
  );
  return { changed, ...renderHook(() => useAct(changed), { wrapper }) };
}

it("gives what came of it, says so, and reads anew what may have changed", async () => {
  const { result, changed } = acting();
  const made = await settle(() => result.current.act(async () => 7, "Done."));
  expect(made).toBe(7);
  expect(shown).toHaveBeenCalledExactlyOnceWith({ message: "Done." });
  expect(changed).toHaveBeenCalledOnce();
});

it("tells a refusal, gives nothing, and reads anew all the same", async () => {
  const { result, changed } = acting();
  const refuse = () => Promise.reject(new Error("It has moved on."));
  const made = await settle(() => result.current.act(refuse, "Done."));
  expect(made).toBeUndefined();
  expect(shown).toHaveBeenCalledExactlyOnceWith(
    expect.objectContaining({ color: "bad", message: "It has moved on." }),
  );
  expect(changed).toHaveBeenCalledOnce();
});
