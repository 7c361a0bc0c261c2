import { SidePanel } from './SidePanel';

const keys: [string, string][] = [
  ['/', 'find mail, a ticket or a sender'],
  ['?', 'this list'],
  ['↑ ↓', 'move through a list'],
  ['A', 'take the item, or put it back'],
  ['D', 'done'],
  ['H', 'hand on to another queue'],
  ['W', 'wait'],
  ['N', 'note'],
  ['R', 'reply'],
  ['T', 'open a ticket or add to its ticket'],
  ['F', 'file the attachments'],
  ['P', 'pass on'],
  ['S', 'send the reply that waits for checking'],
  ['Ctrl Z', 'undo the last change of a sheet'],
  ['Esc', 'close what is open'],
];

export function KeyList({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <SidePanel title="Keys" open={open} onClose={onClose}>
      <table className="table">
        <tbody>
          {keys.map(([key, what]) => (
            <tr key={key}>
              <td className="w-[84px] font-mono">{key}</td>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </SidePanel>
  );
}
