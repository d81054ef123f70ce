import { Modal } from "@mantine/core";

const KEYS: [string, string][] = [
  ["/", "Find anything"],
  ["g then a m r v f", "Author, Match, Run, Review, Refine"],
  ["j  k", "Next and previous step or row"],
  ["Enter", "Open"],
  ["e", "Edit the step"],
  ["n", "New step below"],
  ["Alt+↑  Alt+↓", "Move the step"],
  ["Alt+→  Alt+←", "Branch under the step above, back to the stem"],
  ["Delete", "Remove the step"],
  ["Ctrl+Z  Ctrl+Shift+Z", "Undo, redo"],
  ["p", "Pocket preview"],
  ["c", "Checks"],
  ["Esc", "Leave the field or close"],
  ["?", "This list"],
];

/** Every key, on one card. */
export function KeyList({ shown, onClose }: { shown: boolean; onClose: () => void }) {
  return (
    <Modal opened={shown} onClose={onClose} title="All keys" size="md">
      <table className="rows">
        <tbody>
          {KEYS.map(([key, what]) => (
            <tr key={key}>
              <td className="mono">{key}</td>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
