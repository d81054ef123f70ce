import { Button, Modal, Textarea } from "@mantine/core";
import { type ReactNode, useState } from "react";

/** A question before what cannot be undone; with `reason` it is done only once a reason is given. */
export function AskFirst({
  title,
  act,
  reason,
  harmless,
  onGo,
  onClose,
  children,
}: {
  title: string;
  /** What the button says. */
  act: string;
  reason?: string;
  /** What it does takes nothing away. */
  harmless?: boolean;
  onGo: (reason: string) => void;
  onClose: () => void;
  children?: ReactNode;
}) {
  const [words, setWords] = useState("");
  return (
    <Modal opened onClose={onClose} title={title} centered>
      {children}
      {reason && (
        <Textarea
          label={reason}
          data-autofocus
          autosize
          minRows={2}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
      )}
      <div className="actions apart">
        <Button
          color={harmless ? undefined : "bad"}
          disabled={Boolean(reason) && !words.trim()}
          onClick={() => onGo(words.trim())}
        >
          {act}
        </Button>
        <Button variant="default" onClick={onClose} data-autofocus={reason ? undefined : true}>
          Leave it
        </Button>
      </div>
    </Modal>
  );
}
