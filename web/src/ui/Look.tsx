import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import type { ReactNode } from "react";
import { theme } from "./theme";

/** What Mantine's fields and dialogs need around them; what Pocket shows first does without. */
export function Look({ children }: { children: ReactNode }) {
  return (
    <MantineProvider theme={theme} defaultColorScheme="light">
      {children}
    </MantineProvider>
  );
}

/** The place where notices are told, by itself. */
export function Notices() {
  return (
    <Look>
      <Notifications position="bottom-left" autoClose={6000} />
    </Look>
  );
}

/** As {@link Look}, with the place where notices are told. */
export function LookWithNotices({ children }: { children: ReactNode }) {
  return (
    <Look>
      <Notifications position="bottom-left" autoClose={6000} />
      {children}
    </Look>
  );
}
