import { Button, Popover, Textarea } from "@mantine/core";
import { useState } from "react";

/** Leave something as it is, with the reason why. */
export function SetAside({ onSet }: { onSet: (reason: string) => void }) {
  const [reason, setReason] = useState("");
  return (
    <Popover position="bottom-start" width={300} trapFocus>
      <Popover.Target>
        <Button size="compact-sm" variant="default">
          Set aside
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Textarea
          label="Why it is set aside"
          value={reason}
          onChange={(e) => setReason(e.currentTarget.value)}
        />
        <Button mt="xs" disabled={!reason.trim()} onClick={() => onSet(reason)}>
          Set it aside
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
