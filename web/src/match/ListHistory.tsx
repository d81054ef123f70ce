import { Button, Drawer } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconHistory } from "@tabler/icons-react";
import { useState } from "react";
import { client, need } from "../api/client";
import { useListChanges } from "../api/queries";
import type { ListName, ListPage } from "../api/types";
import { ChangeList } from "../ui/ChangeList";
import { Trouble } from "../ui/Trouble";
import { tellRefusal } from "../ui/use-act";

/** Who changed what in a list, or in one entry of it; a change can be taken back. */
export function ListHistory({
  name,
  title,
  writes,
  onTakenBack,
}: {
  name: ListName;
  title: string;
  writes: boolean;
  onTakenBack: (page: ListPage) => void;
}) {
  const [shown, setShown] = useState(false);
  const changes = useListChanges(name, null, shown);
  return (
    <>
      <Button
        variant="subtle"
        color="slate"
        leftSection={<IconHistory size={15} />}
        onClick={() => setShown(true)}
      >
        History
      </Button>
      <Drawer
        opened={shown}
        onClose={() => setShown(false)}
        title={`${title}: who changed what`}
        position="right"
        size="lg"
      >
        <Trouble error={changes.error} />
        {shown && (
          <ChangeList
            changes={changes.data?.changes}
            empty="Nothing was changed here yet. What came with the library has no history."
            onUndo={
              writes
                ? async (batch) => {
                    const after = await takeBack(name, batch);
                    if (after) onTakenBack(after);
                    changes.refetch();
                  }
                : undefined
            }
          />
        )}
        {changes.data?.more && <p className="soft">The newest are shown.</p>}
      </Drawer>
    </>
  );
}

/** Take a change of a list back; gives the list after, or tells why not. */
async function takeBack(name: ListName, batch: string): Promise<ListPage | undefined> {
  try {
    const after = await need(
      client.POST("/api/v1/changes/lists/{name}/undo", { params: { path: { name } }, body: { batch } }),
    );
    notifications.show({ message: "It is as it was before." });
    return after;
  } catch (error) {
    tellRefusal(error);
    return undefined;
  }
}
