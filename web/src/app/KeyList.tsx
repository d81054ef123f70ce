import { Modal } from "@mantine/core";

const KEYS: [string, string][] = [
  ["/", "Find anything"],
  ["g then a m r v f", "Author, Match, Run, Review, Refine"],
  ["j  k", "Next and previous step or row"],
  ["Enter", "Open"],
  ["e", "Edit the step or question"],
  ["n", "New step, question or row"],
  ["Alt+↑  Alt+↓", "Move the step"],
  ["Alt+→  Alt+←", "Branch under the step above, back to the stem"],
  ["x  Ctrl+click", "Pick several steps, to move, copy or remove them together"],
  ["Ctrl+C  Ctrl+V", "Copy steps, paste them below, in any plan"],
  ["Delete", "Remove the step, the picked steps or the question"],
  ["Ctrl+Z  Ctrl+Shift+Z", "Undo, redo"],
  ["Arrows, Home, End", "In a table: from cell to cell"],
  ["a letter, F2, Enter", "In a table: write the cell; Tab and Enter save and go on"],
  ["Ctrl+Enter", "In a table: a row below"],
  ["g then d", "Your desk"],
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
